#pragma once

#include "tanzen/numeric/vector.hpp"

#include <Eigen/Cholesky>

namespace tanzen {

/// The Cholesky factors L L' of symmetric positive definite matrices of one size, one after the other.
class CholeskyFactors {
 public:
  CholeskyFactors() = default;
  /// Allocates what matrices of this size need.
  explicit CholeskyFactors(Index n);

  /// Order n^3 / 3. False where the matrix is not positive definite to the precision of the numbers: then there is
  /// nothing to solve with.
  [[nodiscard]] bool compute(const Matrix& symmetric);
  /// x becomes the solution of L L' y = x. Allocates nothing.
  void solve_in_place(Vector& x) const;
  /// X becomes the solution of L Y = X.
  void solve_lower_in_place(Matrix& x) const;
  void solve_lower_in_place(Vector& x) const;
  /// x becomes the solution of L' y = x.
  void solve_upper_in_place(Vector& x) const;
  /// The logarithm of the determinant.
  [[nodiscard]] double log_determinant() const;

 private:
  Eigen::LLT<Matrix> factors_;
};

/// The inverse of a square matrix, by its LU factors with row pivots; no number where it has none. Order n^3.
[[nodiscard]] Matrix inverse_of(const Matrix& square);

/// The shortest x of those with the least |A x - b|, by a complete orthogonal decomposition. Order m n^2.
[[nodiscard]] Vector least_squares(const Matrix& a, const Vector& b);

/// An orthonormal basis of the vectors that every column of `columns` is orthogonal to, by a QR decomposition with
/// column pivoting: as many as its rows less its rank.
[[nodiscard]] Matrix orthogonal_basis(const Matrix& columns);

} // namespace tanzen
