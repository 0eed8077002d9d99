#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Uniform random points of the region, as far as the bounds allow it (Brooks, 1958): what every other method has to
/// beat.
///
/// Cost: `sample` values an iteration. Memory: the sample.
struct RandomSearch {
  Index sample = 100; ///< points an iteration

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
