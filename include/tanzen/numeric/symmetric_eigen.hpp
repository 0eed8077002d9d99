#pragma once

#include "tanzen/numeric/vector.hpp"

#include <Eigen/Eigenvalues>

namespace tanzen {

/// Eigenvalues and eigenvectors of symmetric matrices of one size, one after the other: allocates nothing after it is
/// made, which the solver alone does not manage. Order n^3.
class SymmetricEigen {
 public:
  explicit SymmetricEigen(Index n)
      : tridiagonal_(n), solver_(n), diagonal_(n), beside_(std::max<Index>(n - 1, 0)), work_(n), vectors_(n, n) {}

  void compute(const Matrix& symmetric) {
    tridiagonal_.compute(symmetric);
    diagonal_ = tridiagonal_.diagonal();
    beside_ = tridiagonal_.subDiagonal();
    solver_.computeFromTridiagonal(diagonal_, beside_);
    vectors_ = solver_.eigenvectors();
    tridiagonal_.matrixQ().applyThisOnTheLeft(vectors_, work_);
  }

  /// Rising.
  [[nodiscard]] const Vector& values() const { return solver_.eigenvalues(); }
  /// One a column, of length 1.
  [[nodiscard]] const Matrix& vectors() const { return vectors_; }

 private:
  Eigen::Tridiagonalization<Matrix> tridiagonal_;
  Eigen::SelfAdjointEigenSolver<Matrix> solver_; ///< of the tridiagonal matrix
  Vector diagonal_, beside_;
  Eigen::RowVectorXd work_;
  Matrix vectors_;
};

} // namespace tanzen
