#pragma once

#include "tanzen/numeric/random.hpp"
#include "tanzen/problem/bounds.hpp"

namespace tanzen::methods {

/// Gives a trial, which begins as a copy of its target, each coordinate of the mutant with the chance `crossover`, and
/// one in any case (Storn and Price, 1997, equation 4). `mutant(j)` is the mutant's coordinate j.
template <class MutantCoordinate, class Trial>
void cross_binomially(const MutantCoordinate& mutant, double crossover, RandomStream& random, Trial&& trial) {
  const Index always = random.below(trial.size());
  for (Index j = 0; j < trial.size(); ++j) {
    if (random.uniform() < crossover || j == always) trial[j] = mutant(j);
  }
}

/// A coordinate outside goes halfway from its parent to the bound (Price, Storn and Lampinen, 2005, section 4.3.1).
template <class Parent, class Trial>
void bounce_back(const Bounds& bounds, const Parent& parent, Trial&& trial) {
  for (Index j = 0; j < trial.size(); ++j) {
    if (trial[j] < bounds.lower()[j]) trial[j] = 0.5 * (parent[j] + bounds.lower()[j]);
    if (trial[j] > bounds.upper()[j]) trial[j] = 0.5 * (parent[j] + bounds.upper()[j]);
  }
}

} // namespace tanzen::methods
