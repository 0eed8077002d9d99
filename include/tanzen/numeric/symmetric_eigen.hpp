#pragma once

#include "tanzen/numeric/vector.hpp"

#include <algorithm>
#include <cmath>
#include <Eigen/Eigenvalues>

namespace tanzen {

/// Eigenvalues and eigenvectors of symmetric matrices of one size, one after the other: allocates nothing after it is
/// made, which the solver alone does not manage. Order n^3.
class SymmetricEigen {
 public:
  explicit SymmetricEigen(Index n)
      : tridiagonal_(n), solver_(n), diagonal_(n), beside_(std::max<Index>(n - 1, 0)), work_(n), values_(n),
        vectors_(n, n) {}

  void compute(const Matrix& symmetric) {
    tridiagonal_.compute(symmetric);
    // The solver takes what is small beside 1 for zero; a power of two brings the matrix there without rounding.
    const double largest = std::max(tridiagonal_.diagonal().cwiseAbs().maxCoeff(),
                                    beside_.size() > 0 ? tridiagonal_.subDiagonal().cwiseAbs().maxCoeff() : 0.0);
    const double unit = largest > 0 && std::isfinite(largest) ? std::scalbn(1.0, std::ilogb(largest)) : 1.0;
    diagonal_ = tridiagonal_.diagonal() / unit;
    beside_ = tridiagonal_.subDiagonal() / unit;
    solver_.computeFromTridiagonal(diagonal_, beside_);
    values_ = unit * solver_.eigenvalues();
    vectors_ = solver_.eigenvectors();
    tridiagonal_.matrixQ().applyThisOnTheLeft(vectors_, work_);
  }

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

} // namespace tanzen
