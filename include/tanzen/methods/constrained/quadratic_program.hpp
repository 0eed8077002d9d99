#pragma once

#include "tanzen/numeric/vector.hpp"

#include <vector>

namespace tanzen::methods {

/// Minimize x · G x / 2 + g · x where lower <= A x <= upper and least <= x <= most, with G positive definite. A row
/// with both limits alike is an equality; sides may be infinite.
struct QuadraticProgram {
  Matrix hessian = {};  ///< G, n by n
  Vector gradient = {}; ///< g
  Matrix rows = {};     ///< A, m by n; m may be 0
  Vector lower = {}, upper = {};
  Vector least = {}, most = {};
};

/// What became of a quadratic program.
struct QuadraticSolution {
  enum class Status {
    solved,
    infeasible, ///< no point keeps all limits: `conflict` names limits that cannot be kept together
    not_convex, ///< the Hessian is not positive definite to the precision of the numbers
    unfinished, ///< rounding kept it from an end
  };
  Status status = Status::unfinished;
  Vector x = {};
  /// y and z of G x + g + A' y + z = 0: at least 0 at an upper limit, at most 0 at a lower one, 0 between them.
  Vector row_multipliers = {}, bound_multipliers = {};
  Index iterations = 0; ///< limits taken in or dropped
  /// Rows by their number; the limits of variable k as the number of rows + k.
  std::vector<Index> conflict = {};
};

/// The dual method of Goldfarb and Idnani (1983, section 3, with the factors of section 4): from the minimum without
/// limits, it takes in one violated limit after the other, and drops those that push the wrong way; each step keeps
/// all multipliers of their sign. Needs no feasible start, and no start at all. Order n^3 for the factors, then n^2 and
/// a look at every row for each limit taken in or dropped.
[[nodiscard]] QuadraticSolution solve(const QuadraticProgram& program);

} // namespace tanzen::methods
