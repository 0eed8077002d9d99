#include "tanzen/files/write_file.hpp"

#include "tanzen/base/errors.hpp"

#include <array>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <optional>
#include <random>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>

namespace tanzen {
namespace {

namespace fs = std::filesystem;

constexpr mode_t usual_mode = 0666; // less what the user's mask takes away

[[noreturn]] void fail(const char* what, const fs::path& path, const std::string& why) {
  throw FileError(fmt::format("cannot {} {}: {}", what, path.string(), why));
}

[[noreturn]] void fail(const char* what, const fs::path& path, int error) {
  fail(what, path, std::string(std::strerror(error)));
}

/// What a path is in the end, links followed; nothing where nothing is there.
std::optional<struct stat> state_of(const fs::path& path) {
  struct stat state {};
  if (stat(path.c_str(), &state) != 0) return std::nullopt;
  return state;
}

/// The file that a path comes to when the links are followed, the last one of which may lead to nothing yet.
fs::path behind_links(fs::path path) {
  constexpr int most = 40; // as the system follows
  std::error_code error;
  for (int k = 0; k < most && fs::is_symlink(fs::symlink_status(path, error)); ++k) {
    const fs::path link = fs::read_symlink(path, error);
    if (error) break;
    path = link.is_absolute() ? link : path.parent_path() / link;
  }
  return path;
}

fs::path folder_of(const fs::path& path) {
  return path.has_parent_path() ? path.parent_path() : fs::path(".");
}

/// A name beside a path that nobody can foresee.
fs::path unforeseen_beside(const fs::path& path) {
  std::random_device random;
  const auto bits = (std::uint64_t{random()} << 32U) | random();
  return folder_of(path) / fmt::format(".{:016x}.part", bits);
}

/// The standard stream that a path such as /dev/stdout leads to, which may itself go to a file.
std::optional<int> standard_stream(const struct stat& state) {
  for (const int stream : {STDOUT_FILENO, STDERR_FILENO}) {
    struct stat its {};
    if (fstat(stream, &its) == 0 && its.st_dev == state.st_dev && its.st_ino == state.st_ino) return stream;
  }
  return std::nullopt;
}

/// What is written to as it comes: a standard stream, a pipe, a device. Throws for what can be written in no way.
bool is_stream(const fs::path& path) {
  const auto state = state_of(path);
  if (!state) return false;
  if (S_ISREG(state->st_mode)) return standard_stream(*state).has_value();
  if (S_ISDIR(state->st_mode)) fail("write", path, "it is a folder");
  if (!S_ISFIFO(state->st_mode) && !S_ISCHR(state->st_mode)) fail("write", path, "it is no file");
  return true;
}

void check_may_replace(const fs::path& path, const fs::path& target) {
  if (state_of(target) && access(target.c_str(), W_OK) != 0) fail("write", path, errno);
}

std::string in_proc(int descriptor) {
  return fmt::format("/proc/self/fd/{}", descriptor);
}

} // namespace

FileWriter::FileWriter(fs::path path)
    : path_(std::move(path)), target_(behind_links(path_)), is_stream_(is_stream(path_)) {
  if (is_stream_) {
    const auto state = state_of(path_);
    const auto standard = state ? standard_stream(*state) : std::nullopt;
    file_.reset(standard ? dup(*standard) : open(path_.c_str(), O_WRONLY | O_CLOEXEC | O_NOCTTY));
    std::fflush(stdout); // what was printed before comes before
    if (!file_.is_open()) fail("write", path_, errno);
    return;
  }
  check_may_replace(path_, target_);
  open_nameless();
}

void FileWriter::open_nameless() {
  file_.reset(open(folder_of(target_).c_str(), O_TMPFILE | O_WRONLY | O_CLOEXEC, usual_mode));
  if (file_.is_open() && access(in_proc(file_.get()).c_str(), F_OK) == 0) return;
  // Some file systems have no files without a name, and some machines no way to give them one.
  temporary_ = unforeseen_beside(target_);
  file_.reset(open(temporary_.c_str(), O_CREAT | O_EXCL | O_NOFOLLOW | O_WRONLY | O_CLOEXEC, usual_mode));
  if (file_.is_open()) return;
  const int error = errno;
  temporary_.clear();
  fail("write", path_, error);
}

FileWriter::~FileWriter() {
  if (!temporary_.empty()) unlink(temporary_.c_str());
}

void FileWriter::flush() {
  for (std::string_view left = waiting_; !left.empty();) {
    const ssize_t count = write(file_.get(), left.data(), left.size());
    if (count < 0 && errno != EINTR) fail("write", path_, errno);
    if (count > 0) left.remove_prefix(static_cast<std::size_t>(count));
  }
  waiting_.clear();
}

void FileWriter::add(std::string_view text) {
  constexpr std::size_t block = 1U << 16U;
  waiting_ += text;
  if (waiting_.size() >= block) flush();
}

void FileWriter::take_its_place() {
  const bool is_nameless = temporary_.empty();
  const auto name_it = [&](const fs::path& name) {
    return linkat(AT_FDCWD, in_proc(file_.get()).c_str(), AT_FDCWD, name.c_str(), AT_SYMLINK_FOLLOW) == 0;
  };
  if (is_nameless) {
    if (name_it(target_)) return; // nothing was there
    if (errno != EEXIST) fail("write", path_, errno);
    const fs::path name = unforeseen_beside(target_);
    if (!name_it(name)) fail("write", path_, errno);
    temporary_ = name;
  }
  if (rename(temporary_.c_str(), target_.c_str()) != 0) fail("write", path_, errno);
  temporary_.clear();
}

void FileWriter::finish() {
  flush();
  if (is_stream_) {
    file_.reset();
    return;
  }
  if (const auto old = state_of(target_)) {
    // The owner stays where that is allowed; the mode says who may read it, so it comes first.
    if (fchmod(file_.get(), old->st_mode & 0777U) != 0) fail("write", path_, errno);
    [[maybe_unused]] const int ignored = fchown(file_.get(), old->st_uid, old->st_gid);
  }
  if (fsync(file_.get()) != 0) fail("write", path_, errno);
  take_its_place();
  file_.reset();
}

void write_file(const fs::path& path, std::string_view content) {
  FileWriter file(path);
  file.add(content);
  file.finish();
}

void check_can_write(const fs::path& path) {
  if (is_stream(path)) return;
  const fs::path target = behind_links(path);
  check_may_replace(path, target);
  const fs::path folder = folder_of(target);
  std::error_code error;
  if (!fs::exists(folder, error)) fail("write", path, fmt::format("there is no folder {}", folder.string()));
  if (!fs::is_directory(folder, error)) fail("write", path, fmt::format("{} is no folder", folder.string()));
  if (access(folder.c_str(), W_OK | X_OK) != 0) fail("write", path, errno);
}

std::string read_file(const fs::path& path) {
  constexpr std::size_t most = std::size_t{1} << 30U;
  const auto state = state_of(path);
  if (!state) fail("read", path, errno);
  if (S_ISDIR(state->st_mode)) fail("read", path, "it is a folder");
  const Descriptor file(open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NOCTTY));
  if (!file.is_open()) fail("read", path, errno);
  if (S_ISCHR(state->st_mode) && isatty(file.get()) == 0) fail("read", path, "it is a device, not a file");
  std::string content;
  if (S_ISREG(state->st_mode)) content.reserve(std::min(most, static_cast<std::size_t>(state->st_size)));
  std::array<char, 1U << 16U> block;
  for (;;) {
    const ssize_t count = read(file.get(), block.data(), block.size());
    if (count < 0 && errno == EINTR) continue;
    if (count < 0) fail("read", path, errno);
    if (count == 0) return content;
    if (content.size() + static_cast<std::size_t>(count) > most)
      fail("read", path, fmt::format("it has more than {} bytes", most));
    content.append(block.data(), static_cast<std::size_t>(count));
  }
}

} // namespace tanzen
