#include "tanzen/numeric/factors.hpp"

#include <Eigen/LU>
#include <Eigen/QR>

namespace tanzen {

CholeskyFactors::CholeskyFactors(Index n) : factors_(n) {}

bool CholeskyFactors::compute(const Matrix& symmetric) {
  factors_.compute(symmetric);
  return factors_.info() == Eigen::Success;
}
void CholeskyFactors::solve_in_place(Vector& x) const {
  factors_.solveInPlace(x);
}
void CholeskyFactors::solve_lower_in_place(Matrix& x) const {
  factors_.matrixL().solveInPlace(x);
}
void CholeskyFactors::solve_lower_in_place(Vector& x) const {
  factors_.matrixL().solveInPlace(x);
}
void CholeskyFactors::solve_upper_in_place(Vector& x) const {
  factors_.matrixU().solveInPlace(x);
}
double CholeskyFactors::log_determinant() const {
  return 2 * factors_.matrixLLT().diagonal().array().log().sum();
}

Matrix inverse_of(const Matrix& square) {
  return square.partialPivLu().inverse();
}

Vector least_squares(const Matrix& a, const Vector& b) {
  return a.completeOrthogonalDecomposition().solve(b);
}

Matrix orthogonal_basis(const Matrix& columns) {
  if (columns.cols() == 0) return Matrix::Identity(columns.rows(), columns.rows());
  const Eigen::ColPivHouseholderQR<Matrix> factors(columns);
  const Matrix basis = factors.householderQ();
  return basis.rightCols(columns.rows() - factors.rank());
}

} // namespace tanzen
