#include "linear_step.hpp"

#include "tanzen/methods/constrained/quadratic_program.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tanzen::methods {
namespace {

constexpr double nearly = 0.95; ///< of the radius: long enough
constexpr int most_programs = 40;

/// The points next to others that keep the bounds, and the rows loosened by so much.
class Projection {
 public:
  explicit Projection(const LinearPieces& pieces)
      : pieces_(pieces), program_{.hessian = Matrix::Identity(pieces.gradient.size(), pieces.gradient.size()),
                                  .gradient = pieces.gradient,
                                  .rows = pieces.rows,
                                  .lower = pieces.lower,
                                  .upper = pieces.upper,
                                  .least = pieces.least,
                                  .most = pieces.most} {}

  void loosen(double by) {
    program_.lower = pieces_.lower.array() - by;
    program_.upper = pieces_.upper.array() + by;
  }
  /// Its distance from 0; infinite, and `found` as it was, where nothing keeps the rows.
  double of(const Vector& point, Vector& found) {
    program_.gradient = -point;
    QuadraticSolution solution = solve(program_);
    if (solution.status != QuadraticSolution::Status::solved) return std::numeric_limits<double>::infinity();
    found = std::move(solution.x);
    return found.norm();
  }

 private:
  const LinearPieces& pieces_;
  QuadraticProgram program_;
};

/// The first stage: loosens the rows by as little as a step within the ball needs, and takes the shortest such step.
void break_least(Projection& onto, double violation, double radius, Vector& step) {
  const Vector here = Vector::Zero(step.size());
  onto.loosen(0);
  if (violation == 0 || onto.of(here, step) <= radius) return;
  double kept = violation, lost = 0;
  step.setZero();
  for (int k = 0; k < most_programs && step.norm() < nearly * radius && kept - lost > 1e-6 * kept; ++k) {
    const double middle = 0.5 * (kept + lost);
    onto.loosen(middle);
    Vector trial;
    if (onto.of(here, trial) <= radius) {
      kept = middle;
      step.swap(trial);
    } else {
      lost = middle;
    }
  }
  onto.loosen(kept * (1 + 1e-9)); // the rounding of a row must not empty the set
}

} // namespace

double LinearPieces::violation(const Vector& step) const {
  if (rows.rows() == 0) return 0;
  const Vector values = rows * step;
  return std::max({0.0, (values - upper).maxCoeff(), (lower - values).maxCoeff()});
}

Vector linear_step(const LinearPieces& pieces, double radius) {
  constexpr double farthest = 1e6; // in steps of the plain gradient: the end of the path
  Projection onto(pieces);
  Vector step = Vector::Zero(pieces.gradient.size()), trial;
  break_least(onto, pieces.violation(step), radius, step);
  const double slope = pieces.gradient.norm();
  if (!(slope > 0) || !std::isfinite(slope)) return step;
  // The second stage: the projections of points ever farther down the gradient.
  double short_of = 0, beyond = std::numeric_limits<double>::infinity(), along = radius / slope;
  for (int k = 0; k < most_programs && step.norm() < nearly * radius; ++k) {
    if (onto.of(-along * pieces.gradient, trial) <= radius) {
      short_of = along;
      step = trial;
      if (along * slope > farthest * radius) break;
    } else {
      beyond = along;
      if (short_of == 0 && along * slope < radius / farthest) break;
    }
    if (std::isinf(beyond))
      along *= 4;
    else
      along = short_of == 0 ? 0.25 * along : std::sqrt(short_of * beyond);
  }
  return step;
}

} // namespace tanzen::methods
