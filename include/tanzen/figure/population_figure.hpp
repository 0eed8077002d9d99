#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/search/outcome.hpp"

#include <cstddef>
#include <vector>

namespace tanzen {

/// A population over the landscape of two variables at a few of its iterations, and below them how wide it was and how
/// long its steps were over all iterations. `snapshots` are of one run, at most 12 of them are shown.
[[nodiscard]] Figure population_figure(const Problem& problem, const Outcome& outcome,
                                       const std::vector<PopulationSnapshot>& snapshots);

/// The same as a film: a frame an iteration of the snapshots, the members over the landscape, and how wide the
/// population is with a mark that goes along.
[[nodiscard]] Figure population_film(const Problem& problem, const Outcome& outcome,
                                     const std::vector<PopulationSnapshot>& snapshots);

/// Throws InputError for a problem whose populations cannot be drawn: those of other than two variables.
void check_population_figure(const Problem& problem);

/// So many of the snapshots, spread evenly in the logarithm of the iteration, with the first and the last.
[[nodiscard]] std::vector<PopulationSnapshot> spread_snapshots(const std::vector<PopulationSnapshot>& snapshots,
                                                               std::size_t count);

} // namespace tanzen
