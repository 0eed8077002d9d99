#include "support/program.hpp"

#include "tanzen/files/write_file.hpp"

#include <algorithm>
#include <array>
#include <csignal>
#include <cstdlib>
#include <fcntl.h>
#include <pty.h>
#include <spawn.h>
#include <stdexcept>
#include <sys/ioctl.h>
#include <sys/wait.h>
#include <system_error>
#include <unistd.h>
#include <utility>

namespace testing {
namespace {

/// What a started program's streams, folder and signals are to be.
class Beginning {
 public:
  Beginning(const std::filesystem::path& folder, const std::filesystem::path& out, const std::filesystem::path& err) {
    posix_spawn_file_actions_init(&actions_);
    posix_spawn_file_actions_addopen(&actions_, STDOUT_FILENO, out.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0600);
    posix_spawn_file_actions_addopen(&actions_, STDERR_FILENO, err.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0600);
    posix_spawn_file_actions_addchdir_np(&actions_, folder.c_str());
    posix_spawnattr_init(&attributes_);
    sigset_t defaults;
    sigemptyset(&defaults);
    for (const int signal : {SIGINT, SIGTERM, SIGHUP, SIGABRT}) sigaddset(&defaults, signal);
    posix_spawnattr_setsigdefault(&attributes_, &defaults);
    posix_spawnattr_setflags(&attributes_, POSIX_SPAWN_SETSIGDEF);
  }
  Beginning(const Beginning&) = delete;
  Beginning& operator=(const Beginning&) = delete;
  ~Beginning() {
    posix_spawn_file_actions_destroy(&actions_);
    posix_spawnattr_destroy(&attributes_);
  }

  pid_t start(const std::string& program, char* const* words) {
    pid_t child = 0;
    const int error = posix_spawn(&child, program.c_str(), &actions_, &attributes_, words, environ);
    if (error != 0) throw std::system_error(error, std::generic_category(), program);
    return child;
  }

 private:
  posix_spawn_file_actions_t actions_;
  posix_spawnattr_t attributes_;
};

/// Starts a program with its output in files; no shell comes between, and nothing of this process is copied, which is
/// large under sanitizers.
pid_t start(const std::string& program, const std::vector<std::string>& arguments, const std::filesystem::path& folder,
            const std::filesystem::path& out, const std::filesystem::path& err) {
  std::vector<char*> words{const_cast<char*>(program.c_str())};
  for (const std::string& argument : arguments) words.push_back(const_cast<char*>(argument.c_str()));
  words.push_back(nullptr);
  return Beginning(folder, out, err).start(program, words.data());
}

int exit_code_of(pid_t child) {
  int state = 0;
  waitpid(child, &state, 0);
  return WIFEXITED(state) ? WEXITSTATUS(state) : 1000 + WTERMSIG(state);
}

} // namespace

RunningProgram::RunningProgram(const std::string& program, const std::vector<std::string>& arguments,
                               const std::filesystem::path& folder)
    : child_(start(program, arguments, folder, "/dev/null", "/dev/null")) {}

RunningProgram::~RunningProgram() {
  if (child_ == 0) return;
  send(SIGKILL);
  wait();
}

void RunningProgram::send(int signal) const {
  kill(child_, signal);
}

int RunningProgram::wait() {
  return exit_code_of(std::exchange(child_, 0));
}

ProgramResult shell(const std::string& command, const std::filesystem::path& folder) {
  return run_program("/bin/sh", {"-c", command}, folder);
}

ProgramResult run_program(const std::string& program, const std::vector<std::string>& arguments,
                          const std::filesystem::path& folder) {
  const TemporaryFolder place;
  const auto out = place / "out", err = place / "err";
  const int code = exit_code_of(start(program, arguments, folder, out, err));
  return {code, tanzen::read_file(out), tanzen::read_file(err)};
}

ProgramResult tanzen(const std::vector<std::string>& arguments, const std::filesystem::path& folder) {
  return run_program(TANZEN_PROGRAM, arguments, folder);
}

ProgramResult tanzen_on_terminal(const std::vector<std::string>& arguments, unsigned columns,
                                 const std::filesystem::path& folder) {
  winsize size{};
  size.ws_row = 24;
  size.ws_col = static_cast<unsigned short>(columns);
  std::vector<char*> words{const_cast<char*>(TANZEN_PROGRAM)};
  for (const std::string& argument : arguments) words.push_back(const_cast<char*>(argument.c_str()));
  words.push_back(nullptr);
  int terminal = -1;
  const pid_t child = forkpty(&terminal, nullptr, nullptr, &size);
  if (child < 0) throw std::runtime_error("there is no terminal");
  if (child == 0) {
    if (chdir(folder.c_str()) != 0) _exit(126);
    execv(TANZEN_PROGRAM, words.data());
    _exit(127);
  }
  std::string said;
  std::array<char, 4096> block;
  for (ssize_t count = 0; (count = read(terminal, block.data(), block.size())) > 0;)
    said.append(block.data(), static_cast<std::size_t>(count));
  close(terminal);
  std::erase(said, '\r'); // a terminal's ends of lines
  return {exit_code_of(child), said, ""};
}

std::size_t processes_with(std::string_view text) {
  std::size_t count = 0;
  for (const auto& entry : std::filesystem::directory_iterator("/proc")) {
    // A process may be gone before it is looked at.
    std::string words(4096, '\0');
    const int file = open((entry.path() / "cmdline").c_str(), O_RDONLY);
    const ssize_t size = file < 0 ? 0 : read(file, words.data(), words.size());
    if (file >= 0) close(file);
    words.resize(static_cast<std::size_t>(std::max<ssize_t>(size, 0)));
    count += words.find(text) != std::string::npos && entry.path().filename() != std::to_string(getpid()) ? 1 : 0;
  }
  return count;
}

ProgramResult tanzen_line(std::string_view line, const std::filesystem::path& folder) {
  std::vector<std::string> words;
  bool inside = false, quoted = false;
  for (const char c : line) {
    if (c == '"') {
      quoted = !quoted;
      if (!inside) words.emplace_back();
      inside = true;
    } else if (c == ' ' && !quoted) {
      inside = false;
    } else {
      if (!inside) words.emplace_back();
      inside = true;
      words.back() += c;
    }
  }
  if (words.empty() || words.front() != "tanzen") throw std::runtime_error("no tanzen command: " + std::string(line));
  words.erase(words.begin());
  return tanzen(words, folder);
}

TemporaryFolder::TemporaryFolder() {
  std::string name = (std::filesystem::temp_directory_path() / "tanzen-test-XXXXXX").string();
  if (mkdtemp(name.data()) == nullptr) throw std::runtime_error("no temporary folder");
  path_ = name;
}

TemporaryFolder::~TemporaryFolder() {
  std::error_code ignored;
  std::filesystem::remove_all(path_, ignored);
}

bool says(std::string_view text, std::string_view words) {
  std::string flat;
  for (const char c : text) {
    const bool is_blank = c == ' ' || c == '\n';
    if (!is_blank || (!flat.empty() && flat.back() != ' ')) flat += is_blank ? ' ' : c;
  }
  return flat.find(words) != std::string::npos;
}

} // namespace testing
