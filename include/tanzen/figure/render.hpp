#pragma once

#include "tanzen/figure/figure.hpp"

#include <filesystem>
#include <span>
#include <string_view>

namespace tanzen {

/// Draws figures into files of some kinds.
class Renderer {
 public:
  Renderer() = default;
  Renderer(const Renderer&) = delete;
  Renderer& operator=(const Renderer&) = delete;
  virtual ~Renderer() = default;

  /// The endings of file names that it draws, with their dots.
  [[nodiscard]] virtual std::span<const std::string_view> endings() const = 0;
  /// Draws a figure with at least one panel into a file that nothing else looks at yet. Throws FileError.
  virtual void draw(const Figure& figure, const std::filesystem::path& path) const = 0;
};

/// All there are.
[[nodiscard]] std::span<const Renderer* const> renderers();

/// Draws a figure into a file, by the renderer of its ending: .png, .svg or .pdf, .html for a page, .gif or .mp4
/// for what moves. The file appears
/// whole or not at all. Throws InputError for another ending or a figure without panels, FileError where gnuplot, or
/// the library that pages hold, is missing or fails.
void render(const Figure& figure, const std::filesystem::path& path);

/// Throws InputError unless a figure can be drawn under that name.
void check_figure_name(const std::filesystem::path& path);

/// The gnuplot program text that draws the figure to `output`, by its ending.
[[nodiscard]] std::string gnuplot_program(const Figure& figure, const std::filesystem::path& output);

} // namespace tanzen
