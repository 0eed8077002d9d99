#include "tanzen/numeric/symmetric_factors.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

namespace tanzen {

void SymmetricFactors::swap_rows(Index a, Index b) {
  const Index n = factors_.rows();
  factors_.row(a).head(a).swap(factors_.row(b).head(a));
  for (Index k = a + 1; k < b; ++k) std::swap(factors_(k, a), factors_(b, k));
  std::swap(factors_(a, a), factors_(b, b));
  factors_.col(a).tail(n - b - 1).swap(factors_.col(b).tail(n - b - 1));
}

void SymmetricFactors::compute(const Matrix& symmetric) {
  const double alpha = (1 + std::sqrt(17.0)) / 8; // the paper's bound on growth is least here
  const Index n = symmetric.rows();
  factors_ = symmetric;
  swaps_.assign(static_cast<std::size_t>(n), 0);
  is_pair_.assign(static_cast<std::size_t>(n), 0);
  inertia_ = {};
  // What rounding leaves of a row that others span.
  Vector tiny = 8 * std::numeric_limits<double>::epsilon() *
                Matrix(symmetric.selfadjointView<Eigen::Lower>()).cwiseAbs().rowwise().maxCoeff();
  for (Index k = 0; k < n;) {
    const Index below = n - k - 1;
    Index largest_row = k;
    double largest = 0;
    if (below > 0) {
      largest = factors_.col(k).tail(below).cwiseAbs().maxCoeff(&largest_row);
      largest_row += k + 1;
    }
    const double own = std::abs(factors_(k, k));
    bool is_pair = false;
    Index with = k;
    if (own < alpha * largest) {
      // The largest of that row beside its diagonal.
      double rival = factors_.row(largest_row).segment(k, largest_row - k).cwiseAbs().maxCoeff();
      if (largest_row + 1 < n)
        rival = std::max(rival, factors_.col(largest_row).tail(n - largest_row - 1).cwiseAbs().maxCoeff());
      if (own * rival < alpha * largest * largest) {
        with = largest_row;
        is_pair = !(std::abs(factors_(largest_row, largest_row)) >= alpha * rival);
      }
    }
    const Index pivot = is_pair ? k + 1 : k;
    if (with != pivot) {
      swap_rows(pivot, with);
      std::swap(tiny[pivot], tiny[with]);
    }
    swaps_[static_cast<std::size_t>(pivot)] = with;
    if (!is_pair) {
      const double d = factors_(k, k);
      if (std::abs(d) <= tiny[k]) {
        ++inertia_.zero;
      } else {
        ++(d > 0 ? inertia_.positive : inertia_.negative);
        auto column = factors_.col(k).tail(below);
        factors_.bottomRightCorner(below, below).selfadjointView<Eigen::Lower>().rankUpdate(column, -1 / d);
        column /= d;
      }
      ++k;
      continue;
    }
    is_pair_[static_cast<std::size_t>(k)] = 1;
    swaps_[static_cast<std::size_t>(k)] = k;
    ++inertia_.positive;
    ++inertia_.negative;
    const Index rest = n - k - 2;
    const double a = factors_(k, k), b = factors_(k + 1, k), c = factors_(k + 1, k + 1), determinant = a * c - b * b;
    const Vector first = factors_.col(k).tail(rest), second = factors_.col(k + 1).tail(rest);
    const Vector left = (c * first - b * second) / determinant, right = (a * second - b * first) / determinant;
    auto corner = factors_.bottomRightCorner(rest, rest);
    for (Index j = 0; j < rest; ++j)
      corner.col(j).tail(rest - j) -= first[j] * left.tail(rest - j) + second[j] * right.tail(rest - j);
    factors_.col(k).tail(rest) = left;
    factors_.col(k + 1).tail(rest) = right;
    k += 2;
  }
}

void SymmetricFactors::solve_in_place(Vector& x) const {
  const Index n = factors_.rows();
  for (Index k = 0; k < n; ++k) std::swap(x[k], x[swaps_[static_cast<std::size_t>(k)]]);
  for (Index k = 0; k < n;) {
    const bool is_pair = is_pair_[static_cast<std::size_t>(k)] != 0;
    const Index pivot = is_pair ? k + 1 : k;
    const Index rest = n - pivot - 1;
    if (is_pair) {
      x.tail(rest) -= x[k] * factors_.col(k).tail(rest) + x[k + 1] * factors_.col(k + 1).tail(rest);
      const double a = factors_(k, k), b = factors_(k + 1, k), c = factors_(k + 1, k + 1), determinant = a * c - b * b;
      const double u = x[k], v = x[k + 1];
      x[k] = (c * u - b * v) / determinant;
      x[k + 1] = (a * v - b * u) / determinant;
    } else {
      x.tail(rest) -= x[k] * factors_.col(k).tail(rest);
      x[k] /= factors_(k, k);
    }
    k = pivot + 1;
  }
  for (Index k = n - 1; k >= 0;) {
    const bool is_pair = k > 0 && is_pair_[static_cast<std::size_t>(k - 1)] != 0;
    const Index rest = n - k - 1, first = is_pair ? k - 1 : k;
    if (is_pair) x[k - 1] -= factors_.col(k - 1).tail(rest).dot(x.tail(rest));
    x[k] -= factors_.col(k).tail(rest).dot(x.tail(rest));
    k = first - 1;
  }
  for (Index k = n; k-- > 0;) std::swap(x[k], x[swaps_[static_cast<std::size_t>(k)]]);
}

} // namespace tanzen
