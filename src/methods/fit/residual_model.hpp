#pragma once

#include "tanzen/search/evaluator.hpp"

#include <algorithm>
#include <cmath>
#include <Eigen/QR>
#include <vector>

namespace tanzen::methods {

/// Weights with which the squares of the residuals have the slopes of the scalarization; of a residual of zero with its
/// bend. `slopes` is by all parts.
inline void residual_weights(const Evaluator& evaluate, const Vector& parts, Vector& slopes, Vector& weights) {
  const Index count = evaluate.part_counts().residuals, before = parts.size() - count;
  const Evaluation at(parts, evaluate.part_counts());
  slopes.resize(parts.size());
  evaluate.scalarization().slopes(at, slopes);
  weights.resize(count);
  Vector bends;
  for (Index k = 0; k < count; ++k) {
    const double residual = parts[before + k];
    if (residual == 0 && bends.size() == 0) {
      bends.setZero(parts.size());
      (void)evaluate.scalarization().bends(at, bends);
    }
    const double squared = residual == 0 ? 0.5 * bends[before + k] : slopes[before + k] / (2 * residual);
    weights[k] = std::sqrt(std::max(0.0, squared));
  }
}

/// The least-squares model of the loss around a point: rows and residuals weighted so that squares have its slopes. Of
/// [rows, residuals] only the triangle of the QR factors is kept, gathered block by block (Golub and Van Loan, 2013,
/// section 5.2): it has the same least squares, whatever the number of rows.
class ResidualModel {
 public:
  explicit ResidualModel(Evaluator& evaluate)
      : evaluate_(evaluate), count_(evaluate.part_counts().residuals), n_(evaluate.dimension()) {}

  /// Takes the model at `x`, whose parts are at hand. Cost: one Jacobian and m n^2. Memory: three numbers a residual.
  void take(const Vector& x, const Evaluation& at) {
    parts_ = at.parts();
    residual_weights(evaluate_, parts_, slopes_, weights_);
    triangle_.setZero(n_ + 1, n_ + 1);
    gradient_.setZero(n_);
    evaluate_.visit_residual_rows(x, parts_, [&](Index first, const Vector&, const Matrix& rows) { add(first, rows); });
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
  void add(Index first, const Matrix& rows) {
    const Index count = rows.rows(), before = parts_.size() - count_ + first;
    stacked_.resize(n_ + 1 + count, n_ + 1);
    stacked_.topRows(n_ + 1) = triangle_;
    for (Index k = 0; k < count; ++k) {
      const double weight = weights_[first + k];
      stacked_.row(n_ + 1 + k) << weight * rows.row(k), weight * parts_[before + k];
    }
    gradient_.noalias() += rows.transpose() * slopes_.segment(before, count);
    const Eigen::HouseholderQR<Eigen::Ref<Matrix>> factors(stacked_); // in place
    triangle_ = stacked_.topRows(n_ + 1).template triangularView<Eigen::Upper>();
  }

  Evaluator& evaluate_;
  Index count_, n_;
  Vector parts_, slopes_, weights_, gradient_, change_;
  Matrix triangle_, stacked_;
};

/// Slopes at a point, as a fit tells them: within the bounds, and relative to the sum and the parameters.
class FitSlopes {
 public:
  FitSlopes(const Evaluator& evaluate, double first_sum)
      : bounds_(evaluate.bounds()), sizes_(evaluate.problem().typical_sizes()), least_sum_(1e-12 * first_sum) {}

  [[nodiscard]] Iteration tell(Iteration iteration, const Vector& gradient) const {
    const Vector& x = iteration.point();
    double largest = 0;
    for (Index i = 0; i < x.size(); ++i) {
      const bool is_held =
          (x[i] <= bounds_.lower()[i] && gradient[i] >= 0) || (x[i] >= bounds_.upper()[i] && gradient[i] <= 0);
      if (!is_held) largest = std::max(largest, std::abs(gradient[i]) * std::max(std::abs(x[i]), sizes_[i]));
    }
    const double relative = largest / std::max(std::abs(iteration.value()), least_sum_);
    return iteration.gradient_norm(bounds_.projected_gradient_norm(x, gradient), relative);
  }

 private:
  const Bounds& bounds_;
  Vector sizes_;
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
