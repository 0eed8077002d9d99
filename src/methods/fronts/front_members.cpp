#include "front_members.hpp"

#include "tanzen/numeric/constants.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/statistics/fronts.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <numeric>

namespace tanzen::methods {
namespace {

double or_worst(double value) {
  constexpr double worst = 1e300;
  return std::isfinite(value) ? value : worst;
}

/// Members by their ranks: a list a rank.
std::vector<std::vector<Index>> by_rank(const std::vector<int>& ranks) {
  std::vector<std::vector<Index>> lists(static_cast<std::size_t>(1 + *std::ranges::max_element(ranks)));
  for (std::size_t k = 0; k < ranks.size(); ++k)
    lists[static_cast<std::size_t>(ranks[k])].push_back(static_cast<Index>(k));
  return lists;
}

} // namespace

FrontMembers FrontMembers::some(const std::vector<Index>& which) const {
  return {points(Eigen::all, which), objectives(Eigen::all, which), violations(which)};
}

void FrontMembers::append(const FrontMembers& others) {
  const Index before = size();
  points.conservativeResize(others.points.rows(), before + others.size());
  objectives.conservativeResize(others.objectives.rows(), before + others.size());
  violations.conservativeResize(before + others.size());
  points.rightCols(others.size()) = others.points;
  objectives.rightCols(others.size()) = others.objectives;
  violations.tail(others.size()) = others.violations;
}

void FrontMembers::set(Index k, const FrontMembers& from, Index other) {
  points.col(k) = from.points.col(other);
  objectives.col(k) = from.objectives.col(other);
  violations[k] = from.violations[other];
}

FrontMembers visited(Evaluator& evaluate, const Matrix& points) {
  const Evaluations& seen = evaluate.at(points);
  return {points, seen.objectives().unaryExpr(&or_worst), seen.violations};
}

FrontMembers visited(Evaluator& evaluate, const Vector& point) {
  const Evaluation& seen = evaluate.at(point);
  return {point, seen.objectives().unaryExpr(&or_worst), Vector::Constant(1, seen.violation)};
}

FrontMembers first_members(Evaluator& evaluate, const Start& start, Index count) {
  Matrix points = latin_hypercube_points(evaluate.problem().sampling_box(), count, start.random.child({"population"}));
  points.col(0) = start.point;
  return visited(evaluate, points);
}

bool comes_before(const FrontMembers& a, Index i, const FrontMembers& b, Index j, double feasibility) {
  const bool is_feasible = a.violations[i] <= feasibility, other_is = b.violations[j] <= feasibility;
  if (is_feasible && other_is) return dominates(a.objectives.col(i), b.objectives.col(j));
  return is_feasible || (!other_is && a.violations[i] < b.violations[j]);
}

std::vector<int> ranks_of(const FrontMembers& members, double feasibility) {
  std::vector<Index> feasible, broken;
  for (Index k = 0; k < members.size(); ++k) (members.violations[k] <= feasibility ? feasible : broken).push_back(k);
  std::vector<int> ranks(static_cast<std::size_t>(members.size()), 0);
  const auto among = nondominated_ranks(members.objectives(Eigen::all, feasible));
  int last = -1;
  for (std::size_t k = 0; k < feasible.size(); ++k) {
    ranks[static_cast<std::size_t>(feasible[k])] = among[k];
    last = std::max(last, among[k]);
  }
  std::ranges::stable_sort(broken, {}, [&](Index k) { return members.violations[k]; });
  double before = -1;
  for (const Index k : broken) {
    if (members.violations[k] != before) ++last;
    before = members.violations[k];
    ranks[static_cast<std::size_t>(k)] = last;
  }
  return ranks;
}

Vector crowding_of(const Matrix& objectives) {
  const Index count = objectives.cols();
  Vector room = Vector::Zero(count);
  std::vector<Index> order(static_cast<std::size_t>(count));
  std::iota(order.begin(), order.end(), Index{0});
  for (Index row = 0; row < objectives.rows() && count > 0; ++row) {
    const auto value = [&](Index k) { return objectives(row, k); };
    std::ranges::stable_sort(order, {}, value);
    const double width = value(order.back()) - value(order.front());
    room[order.front()] = room[order.back()] = infinity;
    for (std::size_t k = 2; k < order.size() && width > 0; ++k)
      room[order[k - 1]] += (value(order[k]) - value(order[k - 2])) / width;
  }
  return room;
}

std::vector<Index> crowded_order(const FrontMembers& members, double feasibility) {
  const std::vector<int> ranks = ranks_of(members, feasibility);
  std::vector<Index> order;
  for (const std::vector<Index>& same : by_rank(ranks)) {
    const Vector room = crowding_of(members.objectives(Eigen::all, same));
    std::vector<Index> places(same.size());
    std::iota(places.begin(), places.end(), Index{0});
    std::ranges::stable_sort(places, std::greater(), [&](Index k) { return room[k]; });
    for (const Index k : places) order.push_back(same[static_cast<std::size_t>(k)]);
  }
  return order;
}

Iteration FrontStand::iteration(const Evaluator& evaluate, const FrontMembers& members) {
  const std::vector<int> ranks = ranks_of(members, evaluate.feasibility());
  const auto first = static_cast<Index>(std::ranges::find(ranks, 0) - ranks.begin());
  point_ = members.points.col(first);
  values_ = members.objectives.row(0);
  const double covered = evaluate.incumbent().covered();
  return Iteration(point_, std::isnan(covered) ? 0 : -covered)
      .population(members.points, values_)
      .violation(members.violations[first])
      .column("front", static_cast<double>(std::ranges::count(ranks, 0)))
      .column("archive", static_cast<double>(evaluate.incumbent().front().size()));
}

} // namespace tanzen::methods
