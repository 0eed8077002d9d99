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

/// Runs gnuplot on a program file with its messages going to another file; the answer is its exit code.
int run_gnuplot(const std::filesystem::path& program, const std::filesystem::path& messages) {
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_addopen(&actions, STDERR_FILENO, messages.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0600);
  std::string name = "gnuplot", argument = program.string();
  std::array<char*, 3> arguments = {name.data(), argument.data(), nullptr};
  pid_t child = 0;
  const int error = posix_spawnp(&child, "gnuplot", &actions, nullptr, arguments.data(), environ);
  posix_spawn_file_actions_destroy(&actions);
  if (error != 0) {
    throw FileError(
        fmt::format("cannot draw: gnuplot does not start ({}); install the package gnuplot-nox", std::strerror(error)));
  }
  int state = 0;
  while (waitpid(child, &state, 0) < 0 && errno == EINTR) {
  }
  return WIFEXITED(state) ? WEXITSTATUS(state) : 128;
}

} // namespace

std::span<const std::string_view> GnuplotRenderer::endings() const {
  static constexpr std::array<std::string_view, 3> all = {".png", ".svg", ".pdf"};
  return all;
}

void GnuplotRenderer::draw(const Figure& figure, const std::filesystem::path& path) const {
  const TemporaryFile program{path.string() + ".gnuplot"};
  const TemporaryFile messages{path.string() + ".messages"};
  write_file(program.path, gnuplot_program(still(figure), path));
  const int code = run_gnuplot(program.path, messages.path);
  if (code == 0 && std::filesystem::exists(path)) return;
  throw FileError(fmt::format("gnuplot ended with code {}: {}", code, clipped(trimmed(read_file(messages.path)), 400)));
}

} // namespace tanzen
