#include "tanzen/external/run_program.hpp"

#include "guarded_process.hpp"

#include <array>
#include <cerrno>
#include <cstring>
#include <fmt/format.h>
#include <stdexcept>
#include <sys/mman.h>
#include <sys/wait.h>
#include <unistd.h>

namespace tanzen {
namespace {

[[noreturn]] void cannot_tell(const std::string& name) {
  throw std::runtime_error(fmt::format("nothing can be told to {}: {}", name, std::strerror(errno)));
}

/// A file in memory without a name.
Descriptor memory_file(const std::string& name) {
  Descriptor file(memfd_create("tanzen", MFD_CLOEXEC));
  if (!file.is_open()) cannot_tell(name);
  return file;
}

Descriptor memory_file(const std::string& name, std::string_view content) {
  Descriptor file = memory_file(name);
  while (!content.empty()) {
    const ssize_t count = write(file.get(), content.data(), content.size());
    if (count < 0 && errno != EINTR) cannot_tell(name);
    if (count > 0) content.remove_prefix(static_cast<std::size_t>(count));
  }
  if (lseek(file.get(), 0, SEEK_SET) != 0) cannot_tell(name);
  return file;
}

std::string content_of(const Descriptor& file) {
  std::string content;
  std::array<char, 1 << 16> block;
  for (off_t at = 0;; at = static_cast<off_t>(content.size())) {
    const ssize_t count = pread(file.get(), block.data(), block.size(), at);
    if (count < 0 && errno == EINTR) continue;
    if (count <= 0) return content;
    content.append(block.data(), static_cast<std::size_t>(count));
  }
}

} // namespace

ProgramEnd run_program(const std::vector<std::string>& command, std::string_view input) {
  const std::string& name = command.front();
  const Descriptor in = memory_file(name, input), out = memory_file(name), err = memory_file(name);
  external::GuardedProcess process(
      {.command = command, .folder = {}, .input = in.get(), .output = out.get(), .errors = err.get()});
  const int status = process.ended(-1).value_or(0);
  return {.code = WIFSIGNALED(status) ? 128 + WTERMSIG(status) : WEXITSTATUS(status),
          .output = content_of(out),
          .errors = content_of(err)};
}

} // namespace tanzen
