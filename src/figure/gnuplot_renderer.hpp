#pragma once

#include "tanzen/figure/render.hpp"

#include <string>
#include <vector>

namespace tanzen {

/// Still pictures by gnuplot, as a process of its own.
class GnuplotRenderer final : public Renderer {
 public:
  [[nodiscard]] std::span<const std::string_view> endings() const override;
  [[nodiscard]] std::string drawn(const Figure& figure, std::string_view ending) const override;
};

/// What a program of another package writes to its standard output. Throws FileError: with what to do where it does not
/// start, with what it said where it fails.
[[nodiscard]] std::string output_of(const std::vector<std::string>& command, std::string_view input,
                                    const std::string& remedy);

/// The program text that draws the pictures of a film, one for each of its frames, as one file that plays.
[[nodiscard]] std::string gnuplot_film(const Figure& figure, const std::vector<Figure>& pictures);

/// What gnuplot draws by a program text. Throws as `output_of`.
[[nodiscard]] std::string drawn_by_gnuplot(const std::string& program);

} // namespace tanzen
