#pragma once

#include "tanzen/figure/figure.hpp"

#include <fmt/format.h>
#include <string>
#include <vector>

namespace tanzen {

/// Appends a layer's numbers as a data block of gnuplot. A field has a second one, of its contour lines. `ground` is
/// the surface that lines and points in space lie on; null where there is none.
void append_data(fmt::memory_buffer& text, const std::string& name, const Layer& layer,
                 const FieldLayer* ground = nullptr);

/// Whether levels rise so unevenly that heights are better shown by their roots.
[[nodiscard]] bool rises_by_decades(const std::vector<double>& levels);

} // namespace tanzen
