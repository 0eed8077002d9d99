#pragma once

#include "tanzen/problem/problem.hpp"

#include <cstdint>
#include <optional>
#include <string>

namespace tanzen {

/// A way along which an objective gets better without end.
struct Fall {
  Vector direction = {}; ///< of length 1
  bool at_edge = false;  ///< the way ends at the edge of the function's domain, near `edge`; otherwise it never ends
  Vector edge = {};      ///< empty unless `at_edge`
  double value = 0;      ///< the furthest value seen, in the problem's sense
  std::int64_t evaluations = 0; ///< that looking cost; no count of a run has them
};

/// Looks along a way from a point whether the objective gets better without end: at distances that grow tenfold each
/// value must be better than the one before, by steps that do not shrink. Where the function has no value any more, it
/// is looked at ever nearer to that edge instead. What it finds is what the values show, no proof.
///
/// Nothing is found along a way that leaves the bounds, and of a problem with constraints or several objectives. Cost:
/// 2 values of most functions, at most 70; problems with noise are looked at without it.
[[nodiscard]] std::optional<Fall> find_fall(const Problem& problem, const Vector& from, const Vector& direction);

/// `the value falls without end along (0.71, 0.71)`; of a maximum it rises.
[[nodiscard]] std::string to_text(const Fall& fall, Sense sense);

} // namespace tanzen
