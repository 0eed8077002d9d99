#pragma once

#include "tanzen/numeric/vector.hpp"

#include <vector>

namespace tanzen {

/// The factors L D L' of symmetric matrices that may be indefinite, with pivots of one and two rows (Bunch and Kaufman,
/// 1977, algorithm A), and how many eigenvalues are positive, negative and zero, which D tells (Sylvester's law).
class SymmetricFactors {
 public:
  struct Inertia {
    Index positive = 0, negative = 0, zero = 0;
    bool operator==(const Inertia&) const = default;
  };

  /// Of the matrix whose lower triangle is given. Order n^3 / 3.
  void compute(const Matrix& symmetric);
  [[nodiscard]] const Inertia& inertia() const { return inertia_; }
  /// x becomes the solution of A y = x; requires that no eigenvalue is zero.
  void solve_in_place(Vector& x) const;

 private:
  void swap_rows(Index a, Index b);

  Matrix factors_;            ///< L below, D on the diagonal and below it where a pivot has two rows
  std::vector<Index> swaps_;  ///< with which row each was exchanged
  std::vector<char> is_pair_; ///< whether a pivot of two rows begins here
  Inertia inertia_;
};

} // namespace tanzen
