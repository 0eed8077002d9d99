#include "tanzen/methods/fronts/nondominated_sorting.hpp"

#include "tanzen/numeric/sampling.hpp"
#include "tanzen/statistics/fronts.hpp"

#include "../population/bounded_variation.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <span>

namespace tanzen::methods {
namespace {

constexpr double infinity = std::numeric_limits<double>::infinity();

/// Members with their objectives, and what their order is.
struct Members {
  Matrix points;
  Matrix objectives;
  Vector violations;
  std::vector<int> ranks = {};
  Vector room = {}; ///< the crowding distance: how far the neighbours of its rank are

  /// Whether a comes before b.
  [[nodiscard]] bool precedes(Index a, Index b) const {
    const int rank_a = ranks[static_cast<std::size_t>(a)], rank_b = ranks[static_cast<std::size_t>(b)];
    return rank_a != rank_b ? rank_a < rank_b : room[a] > room[b];
  }
};

/// Ranks of feasible members by their objectives, of the others behind them by their violation.
void rank(Members& members, double feasibility) {
  const Index count = members.points.cols();
  std::vector<Index> feasible, broken;
  for (Index k = 0; k < count; ++k) (members.violations[k] <= feasibility ? feasible : broken).push_back(k);
  members.ranks.assign(static_cast<std::size_t>(count), 0);
  const auto ranks = nondominated_ranks(members.objectives(Eigen::all, feasible));
  int last = -1;
  for (std::size_t k = 0; k < feasible.size(); ++k) {
    members.ranks[static_cast<std::size_t>(feasible[k])] = ranks[k];
    last = std::max(last, ranks[k]);
  }
  std::ranges::stable_sort(broken, {}, [&](Index k) { return members.violations[k]; });
  for (const Index k : broken) members.ranks[static_cast<std::size_t>(k)] = ++last;
}

/// The crowding distances of section III.B, rank by rank.
void find_room(Members& members) {
  const Index count = members.points.cols();
  members.room.setZero(count);
  std::vector<Index> order(static_cast<std::size_t>(count));
  std::iota(order.begin(), order.end(), Index{0});
  for (Index row = 0; row < members.objectives.rows(); ++row) {
    const auto value = [&](Index k) { return members.objectives(row, k); };
    const auto rank_of = [&](Index k) { return members.ranks[static_cast<std::size_t>(k)]; };
    std::ranges::stable_sort(order, [&](Index a, Index b) {
      return rank_of(a) != rank_of(b) ? rank_of(a) < rank_of(b) : value(a) < value(b);
    });
    for (std::size_t first = 0; first < order.size();) {
      std::size_t end = first;
      while (end < order.size() && rank_of(order[end]) == rank_of(order[first])) ++end;
      const std::span same = std::span(order).subspan(first, end - first);
      const double width = value(same.back()) - value(same.front());
      members.room[same.front()] = members.room[same.back()] = infinity;
      for (std::size_t k = 2; k < same.size() && width > 0; ++k)
        members.room[same[k - 1]] += (value(same[k]) - value(same[k - 2])) / width;
      first = end;
    }
  }
}

/// The best `count` of parents and children.
Members survivors(const Members& all, Index count) {
  std::vector<Index> order(static_cast<std::size_t>(all.points.cols()));
  std::iota(order.begin(), order.end(), Index{0});
  std::ranges::stable_sort(order, [&](Index a, Index b) { return all.precedes(a, b); });
  order.resize(static_cast<std::size_t>(count));
  Members kept{all.points(Eigen::all, order), all.objectives(Eigen::all, order), all.violations(order)};
  kept.room = all.room(order);
  for (const Index k : order) kept.ranks.push_back(all.ranks[static_cast<std::size_t>(k)]);
  return kept;
}

/// Objectives that are missing are worse than any.
Matrix objectives_of(const Evaluations& seen) {
  return seen.objectives().unaryExpr([](double value) { return std::isfinite(value) ? value : 1e300; });
}

} // namespace

MethodCard NondominatedSorting::card() {
  return {.title = "elitist nondominated sorting",
          .family = "fronts",
          .source = "Deb, Pratap, Agarwal and Meyarivan, 2002",
          .limits = "no child lies outside the bounds; constraints by feasibility first",
          .summary = "Two or three objectives at once: a population that spreads along their front.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true, .fronts = true}};
}

void NondominatedSorting::settings(Settings& list) {
  list.add("population", population).at_least(4).at_most(1e5).means("members");
  list.add("crossover", crossover).between(0, 1).means("chance that two parents are crossed");
  list.add("crossover-index", crossover_index).between(0, 1000).means("the larger, the nearer children are to parents");
  list.add("mutation", mutation).between(0, 1).unset_means("1 / n").means("chance that a coordinate is changed");
  list.add("mutation-index", mutation_index).between(0, 1000).means("the larger, the smaller the changes");
}

Search NondominatedSorting::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size(), count = population;
  const Box box = evaluate.problem().sampling_box();
  const Vector widths = box.width();
  RandomStream& random = start.random;
  Members all;
  all.points = latin_hypercube_points(box, count, random.child({"population"}));
  all.points.col(0) = start.point;
  const Evaluations& seen = evaluate.at(all.points);
  all.objectives = objectives_of(seen);
  all.violations = seen.violations;
  rank(all, evaluate.feasibility());
  find_room(all);
  Members parents = survivors(all, count);
  const BoundedVariation vary{
      evaluate.bounds(), widths, crossover, crossover_index, mutation.value_or(1 / static_cast<double>(n)),
      mutation_index};
  Matrix children(n, count);
  Vector first(n), second(n), point = start.point, values(count);
  const auto winner = [&] {
    const Index a = random.below(count), b = random.below(count);
    return parents.precedes(b, a) ? b : a;
  };
  for (;;) {
    for (Index k = 0; k < count; k += 2) {
      first = parents.points.col(winner());
      second = parents.points.col(winner());
      vary.cross(first, second, random);
      vary.mutate(first, random);
      children.col(k) = first;
      if (k + 1 == count) break;
      vary.mutate(second, random);
      children.col(k + 1) = second;
    }
    const Evaluations& made = evaluate.at(children);
    all.points.resize(n, 2 * count);
    all.points << parents.points, children;
    Matrix objectives(parents.objectives.rows(), 2 * count);
    objectives << parents.objectives, objectives_of(made);
    all.objectives = std::move(objectives);
    Vector violations(2 * count);
    violations << parents.violations, made.violations;
    all.violations = std::move(violations);
    rank(all, evaluate.feasibility());
    find_room(all);
    parents = survivors(all, count);
    // Ranks and distances among themselves decide the tournaments to come.
    find_room(parents);
    const auto front = std::ranges::count(parents.ranks, 0);
    point = parents.points.col(0);
    values = parents.objectives.row(0);
    co_yield Iteration(point, parents.objectives(0, 0))
        .population(parents.points, values)
        .violation(parents.violations[0])
        .column("front", static_cast<double>(front))
        .column("archive", static_cast<double>(evaluate.incumbent().front().size()));
  }
}

} // namespace tanzen::methods
