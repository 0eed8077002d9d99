#include "tanzen/methods/population/adaptive_differential_evolution.hpp"

#include "tanzen/methods/population/population.hpp"
#include "tanzen/numeric/constants.hpp"

#include "trial_vector.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace tanzen::methods {
namespace {

/// Weights F and crossovers CR that succeeded, in a ring of means (Tanabe and Fukunaga, 2013, section III).
class SuccessHistory {
 public:
  SuccessHistory(Index size, Index population)
      : weights_(Vector::Constant(size, 0.5)), crossovers_(Vector::Constant(size, 0.5)) {
    successes_.reserve(static_cast<std::size_t>(population));
  }

  struct Draw {
    double weight;
    double crossover;
  };

  Draw draw(RandomStream& random) const {
    const Index r = random.below(weights_.size());
    Draw draw{};
    do draw.weight = weights_[r] + 0.1 * random.cauchy();
    while (draw.weight <= 0);
    draw.weight = std::min(draw.weight, 1.0);
    // A memory that has only seen zeros is terminal and stays so (2014, section II).
    draw.crossover = crossovers_[r] < 0 ? 0 : std::clamp(crossovers_[r] + 0.1 * random.normal(), 0.0, 1.0);
    return draw;
  }

  void note(const Draw& draw, double fall) { successes_.push_back({draw, fall}); }

  /// Puts the weighted Lehmer means of the generation's successes into the ring (equations 7 to 9).
  void learn() {
    if (successes_.empty()) return;
    double total = 0, f = 0, ff = 0, c = 0, cc = 0;
    for (const auto& [draw, fall] : successes_) total += std::isfinite(fall) ? fall : 0;
    for (const auto& [draw, fall] : successes_) {
      const double share = total > 0 && std::isfinite(fall) ? fall / total : 1 / static_cast<double>(successes_.size());
      f += share * draw.weight;
      ff += share * draw.weight * draw.weight;
      c += share * draw.crossover;
      cc += share * draw.crossover * draw.crossover;
    }
    weights_[next_] = ff / f;
    crossovers_[next_] = crossovers_[next_] < 0 || c <= 0 ? -1 : cc / c;
    next_ = (next_ + 1) % weights_.size();
    successes_.clear();
  }

  [[nodiscard]] double mean_weight() const { return weights_.mean(); }
  [[nodiscard]] double mean_crossover() const { return crossovers_.cwiseMax(0.0).mean(); }

 private:
  struct Success {
    Draw draw;
    double fall;
  };

  Vector weights_, crossovers_;
  std::vector<Success> successes_;
  Index next_ = 0;
};

/// What has been replaced, with room for so many; a new one takes a random place once it is full.
class Archive {
 public:
  Archive(Index n, Index room) : points_(n, std::max<Index>(room, 1)), room_(room) {}

  template <class Point>
  void add(const Point& point, RandomStream& random) {
    if (room_ == 0) return;
    const Index place = size_ < room_ ? size_++ : random.below(room_);
    points_.col(place) = point;
  }
  void shrink(Index room, RandomStream& random) {
    room_ = room;
    while (size_ > room_) {
      const Index gone = random.below(size_--);
      points_.col(gone) = points_.col(size_);
    }
  }
  [[nodiscard]] Index size() const { return size_; }
  [[nodiscard]] auto point(Index k) const { return points_.col(k); }

 private:
  Matrix points_;
  Index room_, size_ = 0;
};

} // namespace

MethodCard AdaptiveDifferentialEvolution::card() {
  return {.title = "success-history adaptive differential evolution with linear population reduction",
          .family = "population",
          .source = "Tanabe and Fukunaga, 2013 and 2014; mutation with archive: Zhang and Sanderson, 2009; "
                    "constraints: Deb, 2000, Takahama and Sakai, 2006",
          .limits = "a coordinate outside goes halfway from its parent to the bound",
          .summary =
              "Rugged functions with up to some tens of variables and a budget that is known: set --evaluations, "
              "it shrinks its population over them.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true}};
}

void AdaptiveDifferentialEvolution::settings(Settings& list) {
  list.add("population", population)
      .at_least(4)
      .at_most(1e6)
      .unset_means("18 for each variable, at least 30")
      .means("members at the beginning");
  list.add("least-population", least_population).at_least(4).at_most(1e6).means("members at the end");
  list.add("history", history).between(1, 1000).means("how many successful weights and crossovers are remembered");
  list.add("greed", greed).above(0).at_most(1).means("part of the population that a mutant may be drawn towards");
  list.add("archive", archive).between(0, 10).means("size of the archive of replaced members, in populations");
  constraints.settings(list);
  add_collapse(list, collapse);
}

Search AdaptiveDifferentialEvolution::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  const Index first = population.value_or(std::max<Index>(30, 18 * n)), last = std::min(least_population, first);
  const auto begun = static_cast<double>(evaluate.counts()[Spent::evaluations]);
  const double budget = planned_evaluations(evaluate);
  const auto room = [this](Index members) { return static_cast<Index>(archive * static_cast<double>(members)); };
  RandomStream& random = start.random;
  Population members(evaluate, start, first, constraints);
  SuccessHistory memory(history, first);
  Archive replaced(n, room(first));
  std::vector<SuccessHistory::Draw> draws(static_cast<std::size_t>(first));
  std::vector<Index> order;
  members.sort(order);
  Members trials = members;

  for (;;) {
    const Index count = members.size();
    const Index best_count = std::max<Index>(2, static_cast<Index>(std::round(greed * static_cast<double>(count))));
    trials.points = members.points;
    for (Index i = 0; i < count; ++i) {
      const auto draw = memory.draw(random);
      draws[static_cast<std::size_t>(i)] = draw;
      const Index best = order[static_cast<std::size_t>(random.below(best_count))];
      const Index a = another(count, std::array{i}, random);
      const Index b = another(count + replaced.size(), std::array{i, a}, random);
      const Matrix& points = members.points;
      const auto mutant = [&](Index j) {
        const double second = b < count ? points(j, b) : replaced.point(b - count)[j];
        return points(j, i) + draw.weight * (points(j, best) - points(j, i)) + draw.weight * (points(j, a) - second);
      };
      cross_binomially(mutant, draw.crossover, random, trials.points.col(i));
      bounce_back(evaluate.bounds(), points.col(i), trials.points.col(i));
    }
    trials.evaluate_by(evaluate);
    for (Index i = 0; i < count; ++i) {
      const Standing trial = trials[i], present = members[i];
      if (!members.is_no_worse(trial, present)) continue;
      if (members.is_better(trial, present)) {
        replaced.add(members.points.col(i), random);
        // A trial that is better by its violation counts as much as any other: its fall is in another unit.
        const double fall = present.violation <= members.level() ? present.value - trial.value : infinity;
        memory.note(draws[static_cast<std::size_t>(i)], fall);
      }
      members.take(i, trials, i);
    }
    memory.learn();
    members.lower_level(evaluate);
    members.sort(order);

    const double part = std::min(1.0, (static_cast<double>(evaluate.counts()[Spent::evaluations]) - begun) / budget);
    const auto wanted =
        static_cast<Index>(std::round(static_cast<double>(first) + part * static_cast<double>(last - first)));
    if (wanted < count) {
      order.resize(static_cast<std::size_t>(wanted));
      members.keep(order);
      members.sort(order);
      replaced.shrink(room(wanted), random);
    }
    co_yield members.iteration(collapse)
        .column("weight", memory.mean_weight())
        .column("crossover", memory.mean_crossover())
        .column("population", static_cast<double>(members.size()));
  }
}

} // namespace tanzen::methods
