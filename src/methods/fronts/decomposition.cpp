#include "tanzen/methods/fronts/decomposition.hpp"

#include "tanzen/numeric/sampling.hpp"

#include "front_variation.hpp"

#include "../population/trial_vector.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

namespace tanzen::methods {
namespace {

/// What each direction makes of the objectives.
class Directions {
 public:
  Directions(const Decomposition& settings, Matrix weights)
      : settings_(settings), weights_(std::move(weights)),
        ideal_(Vector::Constant(weights_.rows(), std::numeric_limits<double>::infinity())),
        range_(Vector::Ones(weights_.rows())) {
    // A weight of 0 would make points alike that one of them dominates.
    weights_ = weights_.cwiseMax(1e-6);
  }

  [[nodiscard]] Index count() const { return weights_.cols(); }
  [[nodiscard]] const Matrix& weights() const { return weights_; }

  /// Objectives are measured from the least seen, in parts of what the members span.
  void see(const Vector& objectives) { ideal_ = ideal_.cwiseMin(objectives); }
  void span(const Matrix& objectives) {
    range_ = (objectives.rowwise().maxCoeff() - ideal_).unaryExpr([](double width) { return width > 0 ? width : 1.0; });
  }

  [[nodiscard]] double value(const Matrix& objectives, Index member, Index direction) const {
    const auto weight = weights_.col(direction);
    const Vector f = (objectives.col(member) - ideal_).cwiseQuotient(range_);
    switch (settings_.by) {
    case Decomposition::By::sum: return weight.dot(f);
    case Decomposition::By::boundary: {
      const double length = weight.norm(), along = weight.dot(f) / length;
      return along + settings_.theta * (f - along / length * weight).norm();
    }
    case Decomposition::By::chebyshev: break;
    }
    return weight.cwiseProduct(f).maxCoeff();
  }

  /// The nearest ones of each direction, itself first.
  [[nodiscard]] std::vector<std::vector<Index>> neighbours(Index most) const {
    std::vector<std::vector<Index>> all;
    for (Index k = 0; k < count(); ++k) {
      const Vector away = (weights_.colwise() - weights_.col(k)).colwise().squaredNorm();
      std::vector<Index> order(static_cast<std::size_t>(count()));
      std::iota(order.begin(), order.end(), Index{0});
      std::ranges::stable_sort(order, {}, [&](Index other) { return away[other]; });
      order.resize(static_cast<std::size_t>(std::min(most, count())));
      all.push_back(std::move(order));
    }
    return all;
  }

 private:
  const Decomposition& settings_;
  Matrix weights_;
  Vector ideal_, range_;
};

/// Two different ones of a list that are not `but`; of a short list any.
std::pair<Index, Index> two_of(const std::vector<Index>& list, Index but, RandomStream& random) {
  const auto draw = [&] { return list[static_cast<std::size_t>(random.below(static_cast<Index>(list.size())))]; };
  Index a = draw(), b = draw();
  for (int tries = 0; tries < 100 && (a == but || b == but || a == b); ++tries) {
    a = draw();
    b = draw();
  }
  return {a, b};
}

} // namespace

MethodCard Decomposition::card() {
  return {.title = "decomposition into many problems of one value",
          .family = "fronts",
          .source = "Zhang and Li, 2007; Li and Zhang, 2009",
          .limits = "no child lies outside the bounds; constraints by the smaller violation first",
          .summary = "Two or three objectives: a front that is spread by directions, cheap for each evaluation.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true, .fronts = true}};
}

void Decomposition::settings(Settings& list) {
  list.add("population", population)
      .at_least(4)
      .at_most(1e5)
      .means("directions, at most; as fine a lattice as they allow");
  list.add("by", by, {{"chebyshev", By::chebyshev}, {"boundary", By::boundary}, {"sum", By::sum}})
      .means("what a direction makes of the objectives: the largest weighted one, along and away from it, or a sum");
  list.add("children", children, {{"crossover", Children::crossover}, {"differences", Children::differences}})
      .means("how children are made of parents");
  list.add("neighbours", neighbours).at_least(3).at_most(1e4).means("directions that share parents");
  list.add("theta", theta).positive().means("what the distance from a direction counts, by boundary");
  list.add("near", near).between(0, 1).means("chance that parents are neighbours; otherwise they are any");
  list.add("most-replaced", most_replaced)
      .at_least(1)
      .at_most(1e4)
      .unset_means("all with crossover, 2 with differences")
      .means("members whose place one child may take");
  list.add("step", step).above(0).at_most(2).means("of differences");
  variation.settings(list);
}

Search Decomposition::search(Evaluator& evaluate, Start start) const {
  RandomStream& random = start.random;
  Directions directions(*this, simplex_points(evaluate.part_counts().objectives, population));
  const Index count = directions.count();
  const std::vector<std::vector<Index>> near_ones = directions.neighbours(neighbours);
  std::vector<Index> everyone(static_cast<std::size_t>(count));
  std::iota(everyone.begin(), everyone.end(), Index{0});
  const Vector widths = evaluate.problem().sampling_box().width();
  const BoundedVariation vary = variation_of(variation, evaluate.bounds(), widths);
  const double level = evaluate.feasibility();
  FrontMembers members = first_members(evaluate, start, count);
  for (Index k = 0; k < count; ++k)
    if (members.violations[k] <= level) directions.see(members.objectives.col(k));
  Vector child, other;
  const auto make_child = [&](Index k, const std::vector<Index>& parents) {
    const auto [a, b] = two_of(parents, k, random);
    if (children == Children::crossover) {
      child = members.points.col(a);
      other = members.points.col(b);
      vary.cross(child, other, random);
    } else {
      child = members.points.col(k) + step * (members.points.col(a) - members.points.col(b));
      bounce_back(evaluate.bounds(), members.points.col(k), child);
    }
    vary.mutate(child, random);
  };
  const auto is_better = [&](const FrontMembers& made, Index k) {
    const double one = std::max(made.violations[0], level), old = std::max(members.violations[k], level);
    if (one != old) return one < old;
    return directions.value(made.objectives, 0, k) < directions.value(members.objectives, k, k);
  };
  const Index most = most_replaced.value_or(children == Children::crossover ? count : 2);
  FrontStand stand;
  for (;;) {
    directions.span(members.objectives);
    for (const Index k : random_order(count, random)) {
      const bool is_near = random.uniform() < near;
      const std::vector<Index>& parents = is_near ? near_ones[static_cast<std::size_t>(k)] : everyone;
      make_child(k, parents);
      const FrontMembers made = visited(evaluate, child);
      if (made.violations[0] <= level) directions.see(made.objectives.col(0));
      Index replaced = 0;
      const std::vector<Index> order = random_order(static_cast<Index>(parents.size()), random);
      for (const Index at : order) {
        const Index member = parents[static_cast<std::size_t>(at)];
        if (!is_better(made, member)) continue;
        members.set(member, made, 0);
        if (++replaced == most) break;
      }
    }
    co_yield stand.iteration(evaluate, members);
  }
}

} // namespace tanzen::methods
