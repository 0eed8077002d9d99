#include "tanzen/numeric/symmetric_eigen.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen {

SymmetricEigen::SymmetricEigen(Index n)
    : tridiagonal_(n), solver_(n), diagonal_(n), beside_(std::max<Index>(n - 1, 0)), work_(n), values_(n),
      vectors_(n, n) {}

void SymmetricEigen::compute(const Matrix& symmetric) {
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

Vector symmetric_eigenvalues(const Matrix& symmetric) {
  return Eigen::SelfAdjointEigenSolver<Matrix>(symmetric, Eigen::EigenvaluesOnly).eigenvalues();
}

} // namespace tanzen
