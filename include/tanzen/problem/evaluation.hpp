#pragma once

#include "tanzen/numeric/vector.hpp"

namespace tanzen {

/// A stretch of a vector, borrowed.
using VectorView = Eigen::Map<const Vector>;

/// How many of each kind of part a bundle has. Its outputs stand in this order: objectives, constraints, residuals.
struct PartCounts {
  Index objectives = 1;
  Index constraints = 0;
  Index residuals = 0;

  [[nodiscard]] Index all() const { return objectives + constraints + residuals; }
  /// One objective and nothing else.
  [[nodiscard]] bool is_plain() const { return objectives == 1 && constraints == 0 && residuals == 0; }
  bool operator==(const PartCounts&) const = default;
};

/// What the bundle gives at one point. Borrows the memory of what made it: an evaluator's until its next evaluation.
class Evaluation {
 public:
  Evaluation() = default;
  /// `parts` are all outputs of the bundle, objectives to be minimized.
  Evaluation(const Vector& parts, const PartCounts& counts) : first_(parts.data()), counts_(counts) {}

  double value = 0;     ///< by the scalarization of the view that asked; to be minimized
  double violation = 0; ///< the largest over the constraints' rows

  [[nodiscard]] VectorView objectives() const { return {first_, counts_.objectives}; }
  [[nodiscard]] VectorView constraints() const { return {first_ + counts_.objectives, counts_.constraints}; }
  [[nodiscard]] VectorView residuals() const {
    return {first_ + counts_.objectives + counts_.constraints, counts_.residuals};
  }
  [[nodiscard]] VectorView parts() const { return {first_, counts_.all()}; }
  [[nodiscard]] const PartCounts& counts() const { return counts_; }

 private:
  const double* first_ = nullptr;
  PartCounts counts_{0, 0, 0};
};

} // namespace tanzen
