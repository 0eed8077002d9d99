#include "gnuplot_renderer.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/readable.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/external/run_program.hpp"

#include "film.hpp"

#include <array>
#include <fmt/format.h>

namespace tanzen {

std::string output_of(const std::vector<std::string>& command, std::string_view input, const std::string& remedy) {
  ProgramEnd end;
  try {
    end = run_program(command, input);
  } catch (const std::runtime_error& error) {
    throw FileError(fmt::format("{}; {}", error.what(), remedy));
  }
  if (end.code != 0)
    throw FileError(fmt::format("{} ended with code {}: {}", command.front(), end.code,
                                readable(clipped(trimmed(end.errors), 400))));
  return std::move(end.output);
}

std::string drawn_by_gnuplot(const std::string& program) {
  // By its name, the file on standard input is read in blocks; without one, byte by byte, which takes most of the time.
  return output_of({"gnuplot", "/dev/stdin"}, program, "install the package gnuplot-nox");
}

std::span<const std::string_view> GnuplotRenderer::endings() const {
  static constexpr std::array<std::string_view, 3> all = {".png", ".svg", ".pdf"};
  return all;
}

std::string GnuplotRenderer::drawn(const Figure& figure, std::string_view ending) const {
  return drawn_by_gnuplot(gnuplot_program(still(figure), ending));
}

} // namespace tanzen
