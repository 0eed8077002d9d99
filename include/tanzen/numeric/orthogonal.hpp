#pragma once

#include "tanzen/numeric/vector.hpp"

#include <Eigen/QR>

namespace tanzen {

/// The factors A P = Q R with column pivoting (Golub and Van Loan, 2013, section 5.4.2) of matrices, one after the
/// other. Cost: m n^2 for each, m n for each vector.
class PivotedFactors {
 public:
  void compute(const Matrix& a);

  [[nodiscard]] Index rank() const { return rank_; }
  /// R, n by n; rows that A does not have are zero.
  [[nodiscard]] const Matrix& triangle() const { return triangle_; }
  /// P: column i of A stands in the triangle where it says.
  [[nodiscard]] const Eigen::PermutationMatrix<Eigen::Dynamic>& permutation() const { return permutation_; }
  /// Q' b.
  [[nodiscard]] Vector turned(const Vector& b) const;
  /// An x with the least |A x - b|, zero where the rank leaves it open.
  [[nodiscard]] Vector solve(const Vector& b) const;
  /// Takes out of columns, or a vector, what A's columns span; the rest is turned by Q'.
  void leave_out(Matrix& columns) const;
  void leave_out(Vector& column) const;

 private:
  Eigen::ColPivHouseholderQR<Matrix> factors_;
  Matrix triangle_;
  Eigen::PermutationMatrix<Eigen::Dynamic> permutation_;
  Index rank_ = 0;
};

/// The triangle R of A = Q R, n by n; `a`, of at least n rows, is overwritten. Of blocks that are stacked on the
/// triangle of what was before it gathers that of all of them (section 5.2). Cost: m n^2.
[[nodiscard]] Matrix triangle_of(Matrix& a);

/// Q of A = Q R where the diagonal of R is positive: of normal numbers a rotation drawn evenly.
[[nodiscard]] Matrix orthonormal_factor(const Matrix& square);

/// Singular values, falling, and the directions that they belong to, a column each, of a matrix of n columns.
struct SingularDirections {
  Vector values = {};
  Matrix directions = {};
};
[[nodiscard]] SingularDirections singular_directions(const Matrix& a);

} // namespace tanzen
