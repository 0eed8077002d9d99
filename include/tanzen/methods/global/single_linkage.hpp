#pragma once

#include "tanzen/methods/global/local_search.hpp"

#include <optional>

namespace tanzen::methods {

/// Multi-level single linkage (Rinnooy Kan and Timmer, 1987, part II, section 2): draws a sample each iteration and
/// starts a local search from each of its better points that has no better one near it, with a critical distance that
/// shrinks as the sample grows; so nearly every search finds a new minimum. It is done when the Bayesian
/// rule of Boender and Rinnooy Kan (1987), applied to the local searches, expects no further one and `patience`
/// iterations have found none, or when three times as many have.
///
/// Cost: `sample` values an iteration and the local searches. Memory: all points of the sample.
struct SingleLinkage {
  LocalChoice local;
  std::optional<Index> sample = {}; ///< unset: 50 n, at least 100
  double reduced = 1;  ///< part of the sample, the best, that searches may start from; less finds the lowest
  double distance = 1; ///< sigma of the critical distance; any finds all minima, above 4 with few searches
  Index patience = 10; ///< iterations without a new minimum until it may be done

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
