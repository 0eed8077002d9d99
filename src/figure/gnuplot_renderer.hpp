#pragma once

#include "tanzen/figure/render.hpp"

#include <string>
#include <vector>

namespace tanzen {

/// Still pictures by gnuplot, as a process of its own.
class GnuplotRenderer final : public Renderer {
 public:
  [[nodiscard]] std::span<const std::string_view> endings() const override;
  void draw(const Figure& figure, const std::filesystem::path& path) const override;
};

/// Runs a program of another package to its end. Throws FileError, with what to do, where it does not start, and with
/// what it said (kept at `messages` meanwhile) where it fails.
void run_program(const std::string& name, const std::vector<std::string>& words, const std::filesystem::path& messages,
                 const std::string& remedy);

/// The program text that draws the pictures of a film, one for each of its frames, into one file that plays.
[[nodiscard]] std::string gnuplot_film(const Figure& figure, const std::vector<Figure>& pictures,
                                       const std::filesystem::path& output);

/// Runs a program text of gnuplot, with its files beside a path. Throws as `run_program`.
void run_gnuplot_program(const std::string& text, const std::filesystem::path& beside);

} // namespace tanzen
