#pragma once

#include "tanzen/numeric/vector.hpp"

#include <Eigen/Eigenvalues>

namespace tanzen {

/// Eigenvalues and eigenvectors of symmetric matrices of one size, one after the other: allocates nothing after it is
/// made, which the solver alone does not manage. Order n^3.
class SymmetricEigen {
 public:
  explicit SymmetricEigen(Index n);

  void compute(const Matrix& symmetric);

  /// Rising.
  [[nodiscard]] const Vector& values() const { return values_; }
  /// One a column, of length 1.
  [[nodiscard]] const Matrix& vectors() const { return vectors_; }

 private:
  Eigen::Tridiagonalization<Matrix> tridiagonal_;
  Eigen::SelfAdjointEigenSolver<Matrix> solver_; ///< of the tridiagonal matrix
  Vector diagonal_, beside_;
  Eigen::RowVectorXd work_;
  Vector values_;
  Matrix vectors_;
};

/// The eigenvalues alone, rising.
[[nodiscard]] Vector symmetric_eigenvalues(const Matrix& symmetric);

} // namespace tanzen
