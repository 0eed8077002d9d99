#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/search/outcome.hpp"

namespace tanzen {

/// The front of a run in objective space, each objective in its own sense: two as a plane, three in space, of more the
/// first three. Requires several objectives.
[[nodiscard]] Figure front_figure(const Outcome& outcome);

} // namespace tanzen
