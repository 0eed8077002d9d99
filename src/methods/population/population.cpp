#include "tanzen/methods/population/population.hpp"

#include "tanzen/numeric/sampling.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace tanzen::methods {

Population::Population(Evaluator& evaluate, const Start& start, Index count)
    : points(latin_hypercube_points(evaluate.problem().sampling_box(), count, start.random.child({"population"}))),
      values(count) {
  points.col(0) = start.point;
  Vector others;
  evaluate.values(points.rightCols(count - 1), others);
  values << start.value, others;
}

Index Population::best() const {
  Index best = 0;
  for (Index k = 1; k < size(); ++k) {
    if (values[k] < values[best]) best = k;
  }
  return best;
}

void Population::keep(const std::vector<Index>& members) {
  points = Matrix(points(Eigen::all, members));
  values = Vector(values(members));
}

Iteration Population::iteration(double collapse) {
  const Index best_member = best();
  best_point_ = points.col(best_member);
  centroid_ = points.rowwise().mean();
  const double diversity = (points.colwise() - centroid_).cwiseAbs().mean();
  double sum = 0;
  Index with_value = 0;
  for (const double value : values) {
    if (!std::isfinite(value)) continue;
    sum += value;
    ++with_value;
  }
  const double mean =
      with_value == 0 ? std::numeric_limits<double>::quiet_NaN() : sum / static_cast<double>(with_value);
  Iteration now(best_point_, values[best_member]);
  now.population(points, values).column("diversity", diversity).column("mean", mean);
  if (with_value == size() && values.maxCoeff() == values[best_member]) now.settled("all members have the same value");
  if (diversity <= collapse * (1 + best_point_.norm())) now.settled("the population has collapsed to one point");
  return now;
}

void add_collapse(Settings& list, double& collapse) {
  list.add("collapse", collapse)
      .at_least(0)
      .means("done when the population is narrower than this, relative to 1 + |x|");
}

void sort_by_value(const Vector& values, std::vector<Index>& order) {
  order.resize(static_cast<std::size_t>(values.size()));
  std::iota(order.begin(), order.end(), Index{0});
  std::sort(order.begin(), order.end(),
            [&](Index a, Index b) { return values[a] != values[b] ? values[a] < values[b] : a < b; });
}

Index another(Index count, std::span<const Index> taken, RandomStream& random) {
  for (;;) {
    const Index candidate = random.below(count);
    if (std::ranges::find(taken, candidate) == taken.end()) return candidate;
  }
}

} // namespace tanzen::methods
