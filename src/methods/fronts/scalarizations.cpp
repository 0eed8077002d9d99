#include "tanzen/methods/fronts/boundary_intersection.hpp"
#include "tanzen/methods/fronts/chebyshev.hpp"
#include "tanzen/methods/fronts/epsilon_constraint.hpp"
#include "tanzen/methods/fronts/weighted_sum.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/numeric/sampling.hpp"

#include "scalarized.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

/// A grid of at most so many points over the unit cube, with its sides.
Matrix grid(Index dimension, Index count) {
  Index side = 2;
  while (std::pow(static_cast<double>(side + 1), static_cast<double>(dimension)) <= static_cast<double>(count)) ++side;
  Matrix points(dimension,
                static_cast<Index>(std::lround(std::pow(static_cast<double>(side), static_cast<double>(dimension)))));
  for (Index k = 0; k < points.cols(); ++k) {
    Index rest = k;
    for (Index i = 0; i < dimension; ++i, rest /= side)
      points(i, k) = static_cast<double>(rest % side) / static_cast<double>(side - 1);
  }
  return points;
}

std::vector<Constraint> limits(const char* name, Index count, double lower, double upper) {
  return std::vector<Constraint>(static_cast<std::size_t>(count), {.name = name, .lower = lower, .upper = upper});
}

/// A problem with one variable t more, which costs `price`: its rows are what the objectives, in parts of their range,
/// lie beyond base + t direction.
PartProblem along_ray(const FrontRange& range, const Vector& base, const Vector& direction, double price) {
  const Index m = direction.size();
  PartProblem problem{.of_objectives = Matrix::Zero(m + 1, m)};
  problem.of_objectives.bottomRows(m) = scaling_rows(range);
  problem.of_extras.resize(m + 1, 1);
  problem.of_extras << price, -direction;
  problem.constants.resize(m + 1);
  problem.constants << 0, -range.ideal.cwiseQuotient(range.width) - base;
  return problem;
}

} // namespace

MethodCard WeightedSums::card() {
  return scalarization_card("a local search for each of many weighted sums", "Zadeh, 1963; Das and Dennis, 1997",
                            "Convex fronts of smooth objectives, by any local method; nothing in a front's hollows.");
}

void WeightedSums::settings(Settings& list) {
  add_scalarization(list, points, local, "weights, at most, evenly on the simplex");
}

Search WeightedSums::search(Evaluator& evaluate, Start start) const {
  const auto part = [](const FrontRange& range, const Vector& weights) {
    return ScalarizedPart{.problem = {.of_objectives = weights.transpose() * scaling_rows(range)},
                          .merit = [weights](const Vector& scaled) { return weights.dot(scaled); }};
  };
  return scalarized_search(evaluate, std::move(start), local, simplex_points(evaluate.part_counts().objectives, points),
                           part);
}

MethodCard EpsilonConstraint::card() {
  return scalarization_card("the first objective under limits on the others", "Haimes, Lasdon and Wismer, 1971",
                            "Smooth fronts of any form, to all digits, by a local method that keeps constraints.");
}

void EpsilonConstraint::settings(Settings& list) {
  add_scalarization(list, points, local, "limits, at most; of more than two objectives a grid");
}

Search EpsilonConstraint::search(Evaluator& evaluate, Start start) const {
  const auto part = [](const FrontRange& range, const Vector& levels) {
    ScalarizedPart made;
    made.problem.of_objectives = scaling_rows(range);
    made.problem.constants = -range.ideal.cwiseQuotient(range.width);
    made.problem.limits = limits("limit", levels.size(), -infinity, infinity);
    for (Index j = 0; j < levels.size(); ++j) made.problem.limits[static_cast<std::size_t>(j)].upper = levels[j];
    made.merit = [levels](const Vector& scaled) {
      constexpr double outside = 1e3;
      return scaled[0] + outside * (scaled.tail(levels.size()) - levels).cwiseMax(0).sum();
    };
    return made;
  };
  return scalarized_search(evaluate, std::move(start), local, grid(evaluate.part_counts().objectives - 1, points),
                           part);
}

MethodCard Chebyshev::card() {
  return scalarization_card("the largest objective by each of many directions", "Bowman, 1976; Steuer and Choo, 1983",
                            "Smooth fronts of any form, by directions from the ideal point.");
}

void Chebyshev::settings(Settings& list) {
  add_scalarization(list, points, local, "directions, at most, evenly on the simplex");
}

Search Chebyshev::search(Evaluator& evaluate, Start start) const {
  const auto part = [](const FrontRange& range, const Vector& lattice) {
    // The least t with f[j] <= t d[j], and a little of all objectives.
    constexpr double little = 1e-6, thin = 1e-4;
    const Vector direction = lattice.cwiseMax(thin);
    const Index m = direction.size();
    ScalarizedPart made;
    made.problem = along_ray(range, Vector::Zero(m), direction, 1);
    made.problem.of_objectives.row(0) = little * scaling_rows(range).colwise().sum();
    made.problem.limits = limits("share", m, -infinity, 0);
    made.merit = [direction](const Vector& scaled) { return scaled.cwiseQuotient(direction).maxCoeff(); };
    made.first_extras = [merit = made.merit](const Vector& scaled) { return Vector::Constant(1, merit(scaled)); };
    return made;
  };
  return scalarized_search(evaluate, std::move(start), local, simplex_points(evaluate.part_counts().objectives, points),
                           part);
}

MethodCard BoundaryIntersection::card() {
  return scalarization_card("normals of the simplex between the best points", "Das and Dennis, 1998",
                            "Smooth fronts of any form, evenly spread.");
}

void BoundaryIntersection::settings(Settings& list) {
  add_scalarization(list, points, local, "points of the simplex, at most");
}

Search BoundaryIntersection::search(Evaluator& evaluate, Start start) const {
  const auto part = [](const FrontRange& range, const Vector& lattice) {
    // Most t with base + t normal = f (their equation 3).
    const Index m = lattice.size();
    const Matrix payoff = (range.ends.colwise() - range.ideal).array().colwise() / range.width.array();
    const Vector base = payoff * lattice, normal = -payoff.rowwise().sum();
    ScalarizedPart made;
    made.problem = along_ray(range, base, normal, -1);
    made.problem.limits = limits("on the normal", m, 0, 0);
    const auto along = [base, normal](const Vector& scaled) {
      return (scaled - base).dot(normal) / normal.squaredNorm();
    };
    made.merit = [base, normal, along](const Vector& scaled) {
      return (scaled - base - along(scaled) * normal).norm();
    };
    made.first_extras = [along](const Vector& scaled) { return Vector::Constant(1, along(scaled)); };
    return made;
  };
  return scalarized_search(evaluate, std::move(start), local, simplex_points(evaluate.part_counts().objectives, points),
                           part);
}

} // namespace tanzen::methods
