#include "child_process.hpp"

#include "tanzen/base/text.hpp"

#include <array>
#include <cerrno>
#include <csignal>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <spawn.h>
#include <stdexcept>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>

extern char** environ;

namespace tanzen::external {
namespace {

constexpr std::size_t longest_line = std::size_t{1} << 20U;

void close_if_open(int& descriptor) {
  if (descriptor >= 0) close(descriptor);
  descriptor = -1;
}

/// What the new process does before it becomes the program.
class SpawnPlan {
 public:
  SpawnPlan(int stream, int errors, const std::string& folder) {
    posix_spawn_file_actions_init(&actions_);
    posix_spawnattr_init(&attributes_);
    posix_spawn_file_actions_adddup2(&actions_, stream, STDIN_FILENO);
    posix_spawn_file_actions_adddup2(&actions_, stream, STDOUT_FILENO);
    posix_spawn_file_actions_adddup2(&actions_, errors, STDERR_FILENO);
    if (!folder.empty()) posix_spawn_file_actions_addchdir_np(&actions_, folder.c_str());
    // A group of its own, so that what it starts ends with it.
    posix_spawnattr_setflags(&attributes_, POSIX_SPAWN_SETPGROUP);
    posix_spawnattr_setpgroup(&attributes_, 0);
  }
  SpawnPlan(const SpawnPlan&) = delete;
  SpawnPlan& operator=(const SpawnPlan&) = delete;
  ~SpawnPlan() {
    posix_spawn_file_actions_destroy(&actions_);
    posix_spawnattr_destroy(&attributes_);
  }

  int start(const std::vector<std::string>& command, pid_t& process) {
    std::vector<char*> words;
    for (const std::string& word : command) words.push_back(const_cast<char*>(word.c_str()));
    words.push_back(nullptr);
    return posix_spawnp(&process, words.front(), &actions_, &attributes_, words.data(), environ);
  }

 private:
  posix_spawn_file_actions_t actions_;
  posix_spawnattr_t attributes_;
};

} // namespace

ChildProcess::ChildProcess(const std::vector<std::string>& command, const std::string& folder) {
  std::array<int, 2> stream{-1, -1}, errors{-1, -1};
  if (socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, stream.data()) != 0)
    throw std::runtime_error(fmt::format("no connection to {}: {}", command.front(), std::strerror(errno)));
  if (pipe2(errors.data(), O_CLOEXEC | O_NONBLOCK) != 0) {
    close_if_open(stream[0]);
    close_if_open(stream[1]);
    throw std::runtime_error(fmt::format("no connection to {}: {}", command.front(), std::strerror(errno)));
  }
  stream_ = stream[0];
  errors_ = errors[0];
  const int failure = SpawnPlan(stream[1], errors[1], folder).start(command, process_);
  close_if_open(stream[1]);
  close_if_open(errors[1]);
  if (failure == 0) return;
  close_if_open(stream_);
  close_if_open(errors_);
  throw std::runtime_error(
      fmt::format("the program {} cannot be started: {}", command.front(), std::strerror(failure)));
}

ChildProcess::~ChildProcess() {
  close_if_open(stream_);
  close_if_open(errors_);
  if (process_ <= 0) return;
  kill(-process_, SIGKILL);
  waitpid(process_, nullptr, 0);
}

bool ChildProcess::wait_for(short events, Clock::time_point deadline) {
  for (;;) {
    const auto left = std::chrono::ceil<std::chrono::milliseconds>(deadline - Clock::now()).count();
    if (left <= 0) return false;
    std::array<pollfd, 2> waiting{pollfd{stream_, events, 0}, pollfd{errors_, POLLIN, 0}};
    const int ready = poll(waiting.data(), errors_ >= 0 ? 2 : 1, static_cast<int>(std::min<long long>(left, 1 << 30)));
    if (ready < 0 && errno != EINTR) return true; // the read or write that follows tells why
    if (ready > 0 && waiting[1].revents != 0 && errors_ >= 0) drain_errors();
    if (ready > 0 && waiting[0].revents != 0) return true;
  }
}

void ChildProcess::drain_errors() {
  constexpr std::size_t kept = 2000;
  std::array<char, 4096> chunk;
  for (;;) {
    const ssize_t count = read(errors_, chunk.data(), chunk.size());
    if (count > 0) {
      error_text_.append(chunk.data(), static_cast<std::size_t>(count));
      if (error_text_.size() > kept) error_text_.erase(0, error_text_.size() - kept);
      continue;
    }
    if (count == 0) close_if_open(errors_);
    return;
  }
}

bool ChildProcess::write_line(std::string_view line, Clock::time_point deadline) {
  const std::string text = std::string(line) + "\n";
  std::string_view left = text;
  while (!left.empty()) {
    const ssize_t count = send(stream_, left.data(), left.size(), MSG_NOSIGNAL | MSG_DONTWAIT);
    if (count > 0) {
      left.remove_prefix(static_cast<std::size_t>(count));
    } else if (errno == EAGAIN || errno == EWOULDBLOCK) {
      if (!wait_for(POLLOUT, deadline)) return false;
    } else if (errno != EINTR) {
      return false;
    }
  }
  return true;
}

ChildProcess::Read ChildProcess::read_line(std::string& line, Clock::time_point deadline) {
  std::array<char, 4096> chunk;
  for (;;) {
    if (const std::size_t end = buffer_.find('\n'); end != std::string::npos) {
      line = buffer_.substr(0, end);
      buffer_.erase(0, end + 1);
      return Read::line;
    }
    if (buffer_.size() > longest_line) return Read::too_long;
    if (!wait_for(POLLIN, deadline)) return Read::timeout;
    const ssize_t count = recv(stream_, chunk.data(), chunk.size(), MSG_DONTWAIT);
    if (count > 0)
      buffer_.append(chunk.data(), static_cast<std::size_t>(count));
    else if (count == 0 || (errno != EAGAIN && errno != EWOULDBLOCK && errno != EINTR))
      return Read::ended;
  }
}

std::string ChildProcess::last_words() {
  // It has closed its output; it may need a moment to end, or never do so.
  int status = 0;
  pid_t ended = 0;
  for (int k = 0; k < 100 && ended == 0; ++k) {
    ended = waitpid(process_, &status, WNOHANG);
    if (ended == 0) usleep(1000);
  }
  if (errors_ >= 0) drain_errors();
  std::string text = "it closed its output";
  if (ended > 0) {
    kill(-process_, SIGKILL); // what it has left behind
    process_ = -1;
    text = WIFSIGNALED(status) ? fmt::format("it was ended by signal {}", WTERMSIG(status))
                               : fmt::format("it ended with exit code {}", WEXITSTATUS(status));
  }
  const std::string_view said = trimmed(error_text_);
  const std::size_t last = said.rfind('\n');
  const std::string_view line = last == std::string_view::npos ? said : said.substr(last + 1);
  return line.empty() ? text : fmt::format("{}: {}", text, clipped(line, 120));
}

} // namespace tanzen::external
