#pragma once

#include "tanzen/figure/figure.hpp"

#include <fmt/format.h>
#include <string>

namespace tanzen {

/// Appends a layer's numbers as a data block of gnuplot. A field and a surface have a second one, of their contour
/// lines; those of a surface lie on the ground at the height `ground`.
void append_data(fmt::memory_buffer& text, const std::string& name, const Layer& layer, double ground = 0);

} // namespace tanzen
