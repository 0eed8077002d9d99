#pragma once

#include "tanzen/problem/problem.hpp"

#include <algorithm>
#include <limits>

namespace tanzen::methods {

/// The rows as the method sees them: scaled, equalities apart from those with a slack.
class ScaledRows {
 public:
  explicit ScaledRows(const std::vector<Constraint>& rows)
      : scales(Vector::Ones(static_cast<Index>(rows.size()))), rows_(rows) {}

  Vector scales; ///< what each row is multiplied by

  [[nodiscard]] Index size() const { return static_cast<Index>(rows_.size()); }
  [[nodiscard]] bool is_equality(Index i) const { return rows_[static_cast<std::size_t>(i)].is_equality(); }
  [[nodiscard]] double limit(Index i) const { return scales[i] * rows_[static_cast<std::size_t>(i)].lower; }
  /// Limits of the slacks; those of an equality, which has none, are infinite.
  [[nodiscard]] Vector lower() const { return limits(&Constraint::lower, -std::numeric_limits<double>::infinity()); }
  [[nodiscard]] Vector upper() const { return limits(&Constraint::upper, std::numeric_limits<double>::infinity()); }
  /// Scales rows that are steeper than 100 down to that (Wächter and Biegler, 2006, section 3.8).
  void scale_by(const Matrix& jacobian) {
    constexpr double steep = 100;
    for (Index i = 0; i < size(); ++i)
      scales[i] = std::min(1.0, steep / std::max(jacobian.row(i).lpNorm<Eigen::Infinity>(), 1e-300));
  }
  /// With zeros for equalities, which have no slack.
  [[nodiscard]] Vector of_slacks(Vector numbers) const {
    for (Index i = 0; i < size(); ++i)
      if (is_equality(i)) numbers[i] = 0;
    return numbers;
  }
  /// Scaled values less their slacks, or less the limit of an equality.
  [[nodiscard]] Vector misfits(const Vector& values, const Vector& slacks) const {
    Vector misfit = scales.cwiseProduct(values);
    for (Index i = 0; i < size(); ++i) misfit[i] -= is_equality(i) ? limit(i) : slacks[i];
    return misfit;
  }

 private:
  [[nodiscard]] Vector limits(double Constraint::*side, double none) const {
    Vector all(size());
    for (Index i = 0; i < size(); ++i)
      all[i] = is_equality(i) ? none : scales[i] * rows_[static_cast<std::size_t>(i)].*side;
    return all;
  }

  const std::vector<Constraint>& rows_;
};

} // namespace tanzen::methods
