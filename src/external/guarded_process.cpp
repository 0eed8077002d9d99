#include "guarded_process.hpp"

#include <array>
#include <cerrno>
#include <csignal>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <stdexcept>
#include <sys/wait.h>
#include <unistd.h>
#include <utility>

namespace tanzen::external {
namespace {

/// Both ends of a pipe; neither goes on into programs.
struct Pipe {
  Descriptor reading, writing;

  explicit Pipe(const std::string& name) {
    std::array<int, 2> ends{-1, -1};
    if (pipe2(ends.data(), O_CLOEXEC) != 0)
      throw std::runtime_error(fmt::format("the program {} cannot be started: {}", name, std::strerror(errno)));
    reading.reset(ends[0]);
    writing.reset(ends[1]);
  }
};

// What follows runs between fork and exec in a process that may have had several threads: it may only make calls that
// are safe in a signal handler (POSIX.1-2017, 2.4.3), and it ends by _exit.

void be_as_at_birth() {
  for (const int signal : {SIGINT, SIGTERM, SIGHUP, SIGQUIT, SIGPIPE, SIGCHLD}) std::signal(signal, SIG_DFL);
  sigset_t none;
  sigemptyset(&none);
  sigprocmask(SIG_SETMASK, &none, nullptr);
}

void write_number(int descriptor, int number) {
  while (write(descriptor, &number, sizeof number) < 0 && errno == EINTR) {
  }
}

[[noreturn]] void become_program(const ProgramStart& start, char** words, int failure) {
  constexpr int above_standard = 10;
  std::array<int, 3> streams{start.input, start.output, start.errors};
  for (int& stream : streams) stream = fcntl(stream, F_DUPFD_CLOEXEC, above_standard);
  failure = fcntl(failure, F_DUPFD_CLOEXEC, above_standard);
  bool is_ready = true;
  for (int k = 0; k < 3; ++k) is_ready = dup2(streams[static_cast<std::size_t>(k)], k) == k && is_ready;
  if (!start.folder.empty()) is_ready = is_ready && chdir(start.folder.c_str()) == 0;
  close_range(3, ~0U, CLOSE_RANGE_CLOEXEC);
  if (is_ready) execvp(words[0], words);
  write_number(failure, errno);
  _exit(127);
}

void note_child(int /*signal*/) {}

/// Waits until the program ends, and tells how; or until the owner is gone. Then nothing of the group is left, this
/// process included.
[[noreturn]] void keep_guard(pid_t program, int life, int report) {
  // All else that is open here belongs to the owner, and must close with it. The two stay above the standard streams.
  const int low = std::min(life, report), high = std::max(life, report);
  if (low > 0) close_range(0, static_cast<unsigned>(low - 1), 0);
  if (high - low > 1) close_range(static_cast<unsigned>(low + 1), static_cast<unsigned>(high - 1), 0);
  close_range(static_cast<unsigned>(high + 1), ~0U, 0);
  sigset_t child, none;
  sigemptyset(&child);
  sigaddset(&child, SIGCHLD);
  sigemptyset(&none);
  sigprocmask(SIG_BLOCK, &child, nullptr); // delivered while it waits, and then alone
  std::signal(SIGCHLD, note_child);
  for (;;) {
    int status = 0;
    if (waitpid(program, &status, WNOHANG) == program) {
      write_number(report, status);
      break;
    }
    pollfd owner{life, POLLIN, 0};
    if (ppoll(&owner, 1, nullptr, &none) > 0) break;
  }
  kill(0, SIGKILL);
  _exit(0);
}

} // namespace

GuardedProcess::GuardedProcess(const ProgramStart& start) {
  const std::string& name = start.command.front();
  Pipe life(name), report(name), failure(name);
  std::vector<char*> words;
  for (const std::string& word : start.command) words.push_back(const_cast<char*>(word.c_str()));
  words.push_back(nullptr);
  guard_ = fork();
  if (guard_ == 0) {
    setpgid(0, 0);
    be_as_at_birth();
    const pid_t program = fork();
    if (program == 0) become_program(start, words.data(), failure.writing.get());
    if (program < 0) write_number(failure.writing.get(), errno);
    if (program < 0) _exit(127);
    keep_guard(program, life.reading.get(), report.writing.get());
  }
  if (guard_ < 0)
    throw std::runtime_error(fmt::format("the program {} cannot be started: {}", name, std::strerror(errno)));
  setpgid(guard_, guard_); // whichever of the two comes first
  life_ = std::move(life.writing);
  report_ = std::move(report.reading);
  report.writing.reset();
  failure.writing.reset();
  int error = 0;
  ssize_t count = 0;
  while ((count = read(failure.reading.get(), &error, sizeof error)) < 0 && errno == EINTR) {
  }
  if (count == 0) return;
  life_.reset();
  waitpid(guard_, nullptr, 0);
  throw std::runtime_error(fmt::format("the program {} cannot be started: {}", name, std::strerror(error)));
}

GuardedProcess::~GuardedProcess() {
  if (guard_ <= 0) return;
  kill(-guard_, SIGKILL);
  while (waitpid(guard_, nullptr, 0) < 0 && errno == EINTR) {
  }
}

std::optional<int> GuardedProcess::ended(int milliseconds) {
  if (status_) return status_;
  pollfd told{report_.get(), POLLIN, 0};
  int ready = 0;
  while ((ready = poll(&told, 1, milliseconds)) < 0 && errno == EINTR) {
  }
  if (ready <= 0) return std::nullopt;
  int status = 0;
  // A guard that was killed tells nothing; so was its program.
  status_ = read(report_.get(), &status, sizeof status) == sizeof status ? status : SIGKILL;
  return status_;
}

std::string end_text(int status) {
  return WIFSIGNALED(status) ? fmt::format("it was ended by signal {}", WTERMSIG(status))
                             : fmt::format("it ended with exit code {}", WEXITSTATUS(status));
}

} // namespace tanzen::external
