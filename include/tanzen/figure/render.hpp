#pragma once

#include "tanzen/figure/figure.hpp"

#include <filesystem>
#include <span>
#include <string>
#include <string_view>

namespace tanzen {

/// Draws figures as files of some kinds.
class Renderer {
 public:
  Renderer() = default;
  Renderer(const Renderer&) = delete;
  Renderer& operator=(const Renderer&) = delete;
  virtual ~Renderer() = default;

  /// The endings of file names that it draws, with their dots.
  [[nodiscard]] virtual std::span<const std::string_view> endings() const = 0;
  /// The content of a file with one of its endings that shows a figure with at least one panel. Throws FileError.
  [[nodiscard]] virtual std::string drawn(const Figure& figure, std::string_view ending) const = 0;
};

/// All there are.
[[nodiscard]] std::span<const Renderer* const> renderers();

/// Draws a figure into a file, by the renderer of its ending: .png, .svg or .pdf, .html for a page, .gif or .mp4
/// for what moves. The file appears whole or not at all, and an older one of that name stays until then. Throws
/// InputError for another ending, for a figure without panels or with layers that cannot be, FileError where gnuplot,
/// or the library that pages hold, is missing or fails, or where the file cannot be written.
void render(const Figure& figure, const std::filesystem::path& path);

/// Throws InputError unless a figure can be drawn under that name.
void check_figure_name(const std::filesystem::path& path);

/// The gnuplot program text that draws the figure, as a file of that ending, to its standard output.
[[nodiscard]] std::string gnuplot_program(const Figure& figure, std::string_view ending);

} // namespace tanzen
