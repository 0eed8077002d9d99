#pragma once

#include "tanzen/numeric/vector.hpp"

#include <Eigen/Cholesky>
#include <optional>
#include <vector>

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
  [[nodiscard]] Vector solve(const Vector& x) const;
  [[nodiscard]] Matrix solve(const Matrix& columns) const;
  /// About one over the condition number, in the norm of column sums; of what `compute` found to be positive definite.
  [[nodiscard]] double reciprocal_condition() const;
  /// The logarithm of the determinant.
  [[nodiscard]] double log_determinant() const;

 private:
  Eigen::LLT<Matrix> factors_;
};

/// The inverse of a square matrix, by its LU factors with row pivots; no number where it has none. Order n^3.
[[nodiscard]] Matrix inverse_of(const Matrix& square);

/// The same by LU factors with full pivots, which tell by their own rounding whether there is one. Order n^3.
[[nodiscard]] std::optional<Matrix> inverse_if_regular(const Matrix& square);

/// The shortest x of those with the least |A x - b|, by a complete orthogonal decomposition. Order m n^2.
[[nodiscard]] Vector least_squares(const Matrix& a, const Vector& b);

/// An orthonormal basis of the vectors that every column of `columns` is orthogonal to, by a QR decomposition with
/// column pivoting: as many as its rows less its rank.
[[nodiscard]] Matrix orthogonal_basis(const Matrix& columns);

/// The places of columns that depend on each other least, as many as the rank, the longest first: by a QR decomposition
/// with column pivoting.
[[nodiscard]] std::vector<Index> independent_columns(const Matrix& columns);

} // namespace tanzen
