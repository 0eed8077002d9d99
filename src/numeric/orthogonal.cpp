#include "tanzen/numeric/orthogonal.hpp"

#include <algorithm>
#include <cassert>
#include <Eigen/SVD>

namespace tanzen {

void PivotedFactors::compute(const Matrix& a) {
  factors_.compute(a);
  const Index n = a.cols(), tall = std::min(n, a.rows());
  triangle_.setZero(n, n);
  triangle_.topRows(tall) = factors_.matrixQR().topRows(tall).triangularView<Eigen::Upper>();
  permutation_ = factors_.colsPermutation();
  rank_ = factors_.rank();
}
Vector PivotedFactors::turned(const Vector& b) const {
  return factors_.householderQ().adjoint() * b;
}
Vector PivotedFactors::solve(const Vector& b) const {
  return factors_.solve(b);
}
void PivotedFactors::leave_out(Matrix& columns) const {
  columns.applyOnTheLeft(factors_.householderQ().adjoint());
  columns.topRows(rank_).setZero();
}
void PivotedFactors::leave_out(Vector& column) const {
  column.applyOnTheLeft(factors_.householderQ().adjoint());
  column.head(rank_).setZero();
}

Matrix triangle_of(Matrix& a) {
  const Index n = a.cols();
  assert(a.rows() >= n);
  const Eigen::HouseholderQR<Eigen::Ref<Matrix>> factors(a); // in place
  return a.topRows(n).triangularView<Eigen::Upper>();
}

Matrix orthonormal_factor(const Matrix& square) {
  const Eigen::HouseholderQR<Matrix> factors(square);
  const Matrix q = factors.householderQ();
  const Vector signs = factors.matrixQR().diagonal().unaryExpr([](double d) { return d < 0 ? -1.0 : 1.0; });
  return q * signs.asDiagonal();
}

SingularDirections singular_directions(const Matrix& a) {
  const Eigen::JacobiSVD<Matrix> factors(a, Eigen::ComputeFullV);
  return {factors.singularValues(), factors.matrixV()};
}

} // namespace tanzen
