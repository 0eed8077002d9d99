#include "tanzen/methods/population/particle_swarm.hpp"

#include "tanzen/methods/population/population.hpp"
#include "tanzen/numeric/sampling.hpp"

#include <cmath>

namespace tanzen::methods {
namespace {

/// The best of a particle and its two neighbours on the ring.
Index best_on_ring(const Population& bests, Index i) {
  const Index count = bests.size();
  Index best = i;
  for (const Index k : {(i + count - 1) % count, (i + 1) % count}) {
    if (bests.is_better(bests[k], bests[best])) best = k;
  }
  return best;
}

} // namespace

MethodCard ParticleSwarm::card() {
  return {.title = "particle swarm with constriction",
          .family = "population",
          .source = "Kennedy and Eberhart, 1995; constriction: Clerc and Kennedy, 2002; ring: Eberhart and Kennedy, "
                    "1995; constraints: Deb, 2000, Takahama and Sakai, 2006",
          .limits = "a particle stops at them, its velocity there zero (Robinson and Rahmat-Samii, 2004)",
          .summary = "Quick and simple for functions with few minima; the ring is slower and less easily misled.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true}};
}

void ParticleSwarm::settings(Settings& list) {
  list.add("neighbours", neighbours, {{"all", Neighbours::all}, {"ring", Neighbours::ring}})
      .means("whose best place a particle knows");
  list.add("population", population).at_least(3).at_most(1e6).means("particles");
  list.add("attraction", attraction).above(4).at_most(10).means("sum of the attractions to both best places (phi)");
  constraints.settings(list);
  add_collapse(list, collapse);
}

Search ParticleSwarm::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size(), count = population;
  const Bounds& bounds = evaluate.bounds();
  const double constriction = 2 / (attraction - 2 + std::sqrt(attraction * attraction - 4 * attraction));
  RandomStream& random = start.random;
  Population bests(evaluate, start, count, constraints); // the best place that each particle has seen
  Members particles = bests;
  Matrix& points = particles.points;
  // Half the way to another random place: no particle leaves the region at once (Clerc, 2012, section 3.1).
  Matrix velocities =
      0.5 * (uniform_points(evaluate.problem().sampling_box(), count, random.child({"velocity"})) - points);
  for (;;) {
    const Index best = bests.best();
    for (Index i = 0; i < count; ++i) {
      const Index leader = neighbours == Neighbours::all ? best : best_on_ring(bests, i);
      for (Index j = 0; j < n; ++j) {
        double& v = velocities(j, i);
        double& x = points(j, i);
        v = constriction * (v + 0.5 * attraction * random.uniform() * (bests.points(j, i) - x) +
                            0.5 * attraction * random.uniform() * (bests.points(j, leader) - x));
        x += v;
        if (x >= bounds.lower()[j] && x <= bounds.upper()[j]) continue;
        x = x < bounds.lower()[j] ? bounds.lower()[j] : bounds.upper()[j];
        v = 0;
      }
    }
    particles.evaluate_by(evaluate);
    for (Index i = 0; i < count; ++i) {
      if (bests.is_no_worse(particles[i], bests[i])) bests.take(i, particles, i);
    }
    bests.lower_level(evaluate);
    Iteration now = bests.iteration(collapse);
    now.column("speed", velocities.colwise().norm().mean());
    now.population(points, particles.values);
    co_yield now;
  }
}

} // namespace tanzen::methods
