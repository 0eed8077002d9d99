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
Vector CholeskyFactors::solve(const Vector& x) const {
  return factors_.solve(x);
}
Matrix CholeskyFactors::solve(const Matrix& columns) const {
  return factors_.solve(columns);
}
double CholeskyFactors::reciprocal_condition() const {
  return factors_.rcond();
}
double CholeskyFactors::log_determinant() const {
  return 2 * factors_.matrixLLT().diagonal().array().log().sum();
}

Matrix inverse_of(const Matrix& square) {
  return square.partialPivLu().inverse();
}

std::optional<Matrix> inverse_if_regular(const Matrix& square) {
  const Eigen::FullPivLU<Matrix> factors(square);
  if (!factors.isInvertible()) return std::nullopt;
  return factors.inverse();
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

std::vector<Index> independent_columns(const Matrix& columns) {
  const Eigen::ColPivHouseholderQR<Matrix> factors(columns);
  const auto& places = factors.colsPermutation().indices();
  return {places.begin(), places.begin() + factors.rank()};
}

} // namespace tanzen
