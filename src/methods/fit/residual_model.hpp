#pragma once

#include "tanzen/search/evaluator.hpp"

#include <vector>

namespace tanzen::methods {

/// The least-squares model of the loss around a point: rows and residuals weighted so that squares have its slopes.
class ResidualModel {
 public:
  explicit ResidualModel(Evaluator& evaluate) : evaluate_(evaluate), count_(evaluate.part_counts().residuals) {}

  /// Takes the model at `x`, whose parts are at hand. Cost: one Jacobian.
  void take(const Vector& x, const Evaluation& at) {
    parts_ = at.parts();
    by_part_.resize(parts_.size());
    const Evaluation kept(parts_, evaluate_.part_counts());
    evaluate_.scalarization().slopes(kept, by_part_);
    residuals_ = parts_.tail(count_);
    weights_.resize(count_);
    const auto slopes = by_part_.tail(count_);
    for (Index k = 0; k < count_; ++k) weights_[k] = residuals_[k] == 0 ? 1 : slopes[k] / (2 * residuals_[k]);
    (void)evaluate_.jacobian(x, &parts_);
    gradient_ = evaluate_.residual_rows().transpose() * slopes;
    weights_ = weights_.cwiseMax(0).cwiseSqrt();
    residuals_.array() *= weights_.array();
    rows_ = evaluate_.residual_rows();
    rows_.array().colwise() *= weights_.array();
  }

  [[nodiscard]] const Vector& gradient() const { return gradient_; }
  [[nodiscard]] const Vector& residuals() const { return residuals_; }
  [[nodiscard]] Vector column_norms() const { return rows_.colwise().norm(); }
  /// What the model promises of a step: how much the sum falls.
  [[nodiscard]] double promised(const Vector& step) {
    change_.noalias() = rows_ * step;
    return -(2 * residuals_.dot(change_) + change_.squaredNorm());
  }
  /// The columns of the variables that are free, to be overwritten.
  void copy_columns(const std::vector<Index>& free, Matrix& columns) const { columns = rows_(Eigen::all, free); }

 private:
  Evaluator& evaluate_;
  Index count_;
  Vector parts_, by_part_, weights_, residuals_, gradient_, change_;
  Matrix rows_;
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
