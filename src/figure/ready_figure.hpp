#pragma once

#include "tanzen/figure/figure.hpp"

namespace tanzen {

/// The figure as renderers take it: layers without a colour have the next one of a series, ranges that have no width or
/// no number are widened, so that they can be drawn. Throws InputError, with the panel and the layer, for what cannot
/// be drawn: no panels, lists of a layer that differ in length, colours that are none.
[[nodiscard]] Figure ready_figure(Figure figure);

} // namespace tanzen
