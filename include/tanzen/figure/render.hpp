#pragma once

#include "tanzen/figure/figure.hpp"

#include <filesystem>

namespace tanzen {

/// Draws a figure into a file, by the ending of its name: .png, .svg or .pdf. The file appears whole or not at all.
/// Throws InputError for another ending, FileError where gnuplot is missing or fails.
void render(const Figure& figure, const std::filesystem::path& path);

/// Throws InputError unless a figure can be drawn under that name.
void check_figure_name(const std::filesystem::path& path);

/// The gnuplot program text that draws the figure to `output`, by its ending.
[[nodiscard]] std::string gnuplot_program(const Figure& figure, const std::filesystem::path& output);

} // namespace tanzen
