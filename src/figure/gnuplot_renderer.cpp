#include "gnuplot_renderer.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/write_file.hpp"

#include "film.hpp"

#include "film.hpp"

#include <array>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

extern char** environ;

namespace tanzen {
namespace {

/// A file that goes away with its owner.
struct TemporaryFile {
  std::filesystem::path path;
  ~TemporaryFile() {
    std::error_code ignored;
    std::filesystem::remove(path, ignored);
  }
};

/// Runs a program with its messages going to a file; the answer is its exit code. Throws FileError, with what to do,
/// where it does not start.
int exit_code_of(const std::string& name, const std::vector<std::string>& words, const std::filesystem::path& messages,
                 const std::string& remedy) {
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_addopen(&actions, STDERR_FILENO, messages.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0600);
  std::vector<std::string> all{name};
  all.insert(all.end(), words.begin(), words.end());
  std::vector<char*> arguments;
  for (std::string& word : all) arguments.push_back(word.data());
  arguments.push_back(nullptr);
  pid_t child = 0;
  const int error = posix_spawnp(&child, name.c_str(), &actions, nullptr, arguments.data(), environ);
  posix_spawn_file_actions_destroy(&actions);
  if (error != 0) throw FileError(fmt::format("{} does not start ({}); {}", name, std::strerror(error), remedy));
  int state = 0;
  while (waitpid(child, &state, 0) < 0 && errno == EINTR) {
  }
  return WIFEXITED(state) ? WEXITSTATUS(state) : 128;
}

} // namespace

void run_program(const std::string& name, const std::vector<std::string>& words,
                 const std::filesystem::path& messages_path, const std::string& remedy) {
  const TemporaryFile messages{messages_path};
  const int code = exit_code_of(name, words, messages.path, remedy);
  if (code != 0)
    throw FileError(
        fmt::format("{} ended with code {}: {}", name, code, clipped(trimmed(read_file(messages.path)), 400)));
}

void run_gnuplot_program(const std::string& text, const std::filesystem::path& beside) {
  const TemporaryFile program{beside.string() + ".gnuplot"};
  write_file(program.path, text);
  run_program("gnuplot", {program.path.string()}, beside.string() + ".messages", "install the package gnuplot-nox");
}

std::span<const std::string_view> GnuplotRenderer::endings() const {
  static constexpr std::array<std::string_view, 3> all = {".png", ".svg", ".pdf"};
  return all;
}

void GnuplotRenderer::draw(const Figure& figure, const std::filesystem::path& path) const {
  run_gnuplot_program(gnuplot_program(still(figure), path), path);
  if (!std::filesystem::exists(path)) throw FileError("gnuplot drew nothing");
}

} // namespace tanzen
