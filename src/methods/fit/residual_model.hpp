#pragma once

#include "tanzen/numeric/orthogonal.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/relative_gradient.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

namespace tanzen::methods {

/// Weights with which the squares of the residuals have the slopes of the scalarization; of a residual of zero with its
/// bend.
inline void residual_weights(const Evaluator& evaluate, const Evaluation& at, Vector& weights) {
  const VectorView residuals = at.residuals();
  const Index before = evaluate.part_counts().all() - residuals.size();
  Vector bends;
  weights.resize(before + residuals.size());
  evaluate.scalarization().slopes(at, weights);
  for (Index k = 0; k < residuals.size(); ++k) {
    if (residuals[k] == 0 && bends.size() == 0) {
      bends.setZero(weights.size());
      (void)evaluate.scalarization().bends(at, bends);
    }
    const double squared = 0.5 * (residuals[k] == 0 ? bends[before + k] : weights[before + k] / residuals[k]);
    weights[k] = std::sqrt(std::max(0.0, squared));
  }
  weights.conservativeResize(residuals.size());
}

/// The least-squares model of the loss around a point: rows and residuals weighted so that squares have its slopes. Of
/// [rows, residuals] only the triangle of the QR factors is kept, gathered block by block (Golub and Van Loan, 2013,
/// section 5.2): it has the same least squares, whatever the number of rows.
class ResidualModel {
 public:
  explicit ResidualModel(Evaluator& evaluate) : evaluate_(evaluate), n_(evaluate.dimension()) {}

  /// Takes the model at `x`, whose parts are at hand. Cost: one Jacobian and m n^2. Memory: a number a residual, two
  /// where derivatives are differences.
  void take(const Vector& x, const Evaluation& at) {
    if (evaluate_.uses_differences()) parts_ = at.parts(); // they take the evaluator's own
    const Evaluation here = evaluate_.uses_differences() ? Evaluation(parts_, evaluate_.part_counts()) : at;
    residual_weights(evaluate_, here, weights_);
    triangle_.setZero(n_ + 1, n_ + 1);
    gradient_.setZero(n_);
    evaluate_.visit_residual_rows(x, parts_, [&](Index first, const Matrix& rows) {
      add(here.residuals().segment(first, rows.rows()), weights_.segment(first, rows.rows()), rows);
    });
  }

  [[nodiscard]] const Vector& gradient() const { return gradient_; }
  /// Residuals with the same squares, n + 1 of them.
  [[nodiscard]] Vector residuals() const { return triangle_.col(n_); }
  [[nodiscard]] Vector column_norms() const { return triangle_.leftCols(n_).colwise().norm(); }
  /// What the model promises of a step: how much the sum falls.
  [[nodiscard]] double promised(const Vector& step) {
    change_.noalias() = triangle_.leftCols(n_) * step;
    return -(2 * triangle_.col(n_).dot(change_) + change_.squaredNorm());
  }
  /// The columns of the variables that are free, to be overwritten.
  void copy_columns(const std::vector<Index>& free, Matrix& columns) const { columns = triangle_(Eigen::all, free); }

 private:
  template <class Numbers, class Weights>
  void add(const Numbers& residuals, const Weights& weights, const Matrix& rows) {
    const Index count = rows.rows();
    stacked_.resize(n_ + 1 + count, n_ + 1);
    stacked_.topRows(n_ + 1) = triangle_;
    auto below = stacked_.bottomRows(count);
    below.leftCols(n_) = weights.asDiagonal() * rows;
    below.col(n_) = weights.cwiseProduct(residuals);
    gradient_.noalias() += 2 * below.leftCols(n_).transpose() * below.col(n_);
    triangle_ = triangle_of(stacked_);
  }

  Evaluator& evaluate_;
  Index n_;
  Vector parts_, weights_, gradient_, change_;
  Matrix triangle_, stacked_;
};

/// Slopes at a point, as a fit tells them: within the bounds, and relative to the sum and the parameters.
class FitSlopes {
 public:
  FitSlopes(const Evaluator& evaluate, double first_sum)
      : problem_(evaluate.problem()), least_sum_(1e-12 * first_sum) {}

  [[nodiscard]] Iteration tell(Iteration iteration, const Vector& gradient) const {
    const Vector& x = iteration.point();
    const double size = std::max(std::abs(iteration.value()), least_sum_);
    return iteration.gradient_norm(problem_.bounds().projected_gradient_norm(x, gradient),
                                   relative_gradient(problem_, x, gradient, size));
  }

 private:
  const Problem& problem_;
  double least_sum_; ///< below which a sum is as good as zero
};

/// The variables that may move: not those that sit on a bound with the slope pushing outward.
inline void find_free(const Vector& x, const Vector& gradient, const Bounds& bounds, std::vector<Index>& free) {
  free.clear();
  for (Index i = 0; i < x.size(); ++i) {
    const bool is_held =
        (x[i] <= bounds.lower()[i] && gradient[i] >= 0) || (x[i] >= bounds.upper()[i] && gradient[i] <= 0);
    if (!is_held) free.push_back(i);
  }
}

} // namespace tanzen::methods
