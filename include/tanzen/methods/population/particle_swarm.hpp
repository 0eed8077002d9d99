#pragma once

#include "tanzen/methods/population/population.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Particle swarm with constriction (Clerc and Kennedy, 2002, equations 3.27 and 3.28), each particle drawn towards its
/// own best place and that of its neighbourhood: all others (Kennedy and Eberhart, 1995), or a ring of three (Eberhart
/// and Kennedy, 1995). A particle that would leave the bounds stops at them, its velocity there zero ("absorbing";
/// Robinson and Rahmat-Samii, 2004).
///
/// Cost: `population` values an iteration. Memory: three populations.
struct ParticleSwarm {
  enum class Neighbours { all, ring };

  Neighbours neighbours = Neighbours::all;
  Index population = 40;
  double attraction = 4.1; ///< phi, the sum of both attractions; above 4
  ConstraintRules constraints;
  double collapse = 1e-12; ///< done when the best places are narrower than this, relative to each variable's size

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
