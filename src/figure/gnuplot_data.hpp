#pragma once

#include "tanzen/figure/figure.hpp"

#include <fmt/format.h>
#include <string>
#include <vector>

namespace tanzen {

/// Appends a layer's numbers as a data block of gnuplot. A field has a second one, of its contour lines.
void append_data(fmt::memory_buffer& text, const std::string& name, const Layer& layer);

/// Whether levels rise so unevenly that heights are better shown by their roots.
[[nodiscard]] bool rises_by_decades(const std::vector<double>& levels);

} // namespace tanzen
