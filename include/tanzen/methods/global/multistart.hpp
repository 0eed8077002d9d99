#pragma once

#include "tanzen/methods/global/local_search.hpp"

#include <cstdint>

namespace tanzen::methods {

/// A local method from one random start after the other. It is done when, after Boender and Rinnooy Kan (1987), less
/// than half a minimum is expected to be missing: w (s - 1) / (s - w - 2) < w + 1/2 after s searches that found w
/// minima.
///
/// Cost: an iteration is one local search. Memory: the minima found.
struct Multistart {
  LocalChoice local;

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

/// Whether after so many local searches the minima found are probably all there are (Boender and Rinnooy Kan, 1987).
[[nodiscard]] bool probably_all_found(std::int64_t searches, std::int64_t minima);

/// Notes a minimum where it is a feasible one within the region; others are not looked for.
void note_minimum(Evaluator& evaluate, const Vector& point, const Standing& standing);

} // namespace tanzen::methods
