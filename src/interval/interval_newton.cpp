#include "tanzen/interval/interval_newton.hpp"

#include "tanzen/numeric/factors.hpp"
#include "tanzen/numeric/symmetric_eigen.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen {

IntervalNewton::Result IntervalNewton::take(std::span<const Enclosure> jacobian, std::span<const Enclosure> values,
                                            std::span<const double> centre, std::span<Enclosure> box) {
  m_ = box.size();
  gap_.reset();
  const auto is_finite = [](const Enclosure& e) { return e.is_finite(); };
  if (!std::ranges::all_of(jacobian, is_finite) || !std::ranges::all_of(values, is_finite)) return Result::nothing;
  row_.resize(m_);
  start_.assign(box.begin(), box.end());
  const Result result = sweep(jacobian, values, centre, box, false);
  if (m_ == 1 || result == Result::no_zero || !find_inverse(jacobian)) return result;
  // From the whole box once more: what the first sweep left would not lie inside of itself.
  other_ = start_;
  const Result after = sweep(jacobian, values, centre, other_, true);
  if (after == Result::no_zero) return after;
  for (std::size_t i = 0; i < m_; ++i) {
    box[i] = common(box[i], other_[i]);
    if (box[i].is_empty()) return Result::no_zero;
  }
  return after == Result::nothing || result == Result::one_zero ? result : after;
}

bool IntervalNewton::find_inverse(std::span<const Enclosure> jacobian) {
  const auto m = static_cast<Index>(m_);
  Matrix middle(m, m);
  for (Index i = 0; i < m; ++i) {
    for (Index j = 0; j < m; ++j) middle(i, j) = jacobian[static_cast<std::size_t>(i * m + j)].middle();
  }
  const auto inverse = inverse_if_regular(middle);
  if (!inverse) return false;
  inverse_ = *inverse;
  return inverse_.allFinite();
}

/// One row of the equations J (x - centre) = -values, or of their product with the inverse.
void IntervalNewton::fill_row(std::size_t i, std::span<const Enclosure> jacobian, std::span<const Enclosure> values,
                              bool multiplied) {
  if (!multiplied) {
    right_ = -values[i];
    std::copy_n(jacobian.begin() + static_cast<std::ptrdiff_t>(i * m_), m_, row_.begin());
    return;
  }
  right_ = 0;
  std::ranges::fill(row_, Enclosure(0));
  for (std::size_t k = 0; k < m_; ++k) {
    const Enclosure y(inverse_(static_cast<Index>(i), static_cast<Index>(k)));
    right_ = right_ - y * values[k];
    for (std::size_t j = 0; j < m_; ++j) row_[j] = row_[j] + y * jacobian[k * m_ + j];
  }
}

IntervalNewton::Result IntervalNewton::sweep(std::span<const Enclosure> jacobian, std::span<const Enclosure> values,
                                             std::span<const double> centre, std::span<Enclosure> box,
                                             bool multiplied) {
  bool is_inside = true, is_narrower = false;
  for (std::size_t i = 0; i < m_; ++i) {
    fill_row(i, jacobian, values, multiplied);
    Enclosure right = right_;
    for (std::size_t j = 0; j < m_; ++j) {
      if (j != i) right = right - row_[j] * (box[j] - Enclosure(centre[j]));
    }
    const Enclosure before = box[i];
    if (row_[i].contains(0)) {
      is_inside = false;
      if (!right.contains(0)) note_gap(i, right, row_[i], centre[i], box[i]);
    } else {
      const Enclosure found = Enclosure(centre[i]) + right / row_[i];
      if (!(found.lower > start_[i].lower && found.upper < start_[i].upper && start_[i].contains(centre[i])))
        is_inside = false;
      box[i] = common(box[i], found);
    }
    if (box[i].is_empty()) return Result::no_zero;
    if (box[i] != before) is_narrower = true;
  }
  if (is_inside) return Result::one_zero;
  return is_narrower ? Result::narrower : Result::nothing;
}

/// Where the pivot may be zero and the right side is not: zeros lie on two half lines, of which the side may meet one,
/// both or none.
void IntervalNewton::note_gap(std::size_t i, const Enclosure& right, const Enclosure& pivot, double centre,
                              Enclosure& side) {
  const double nearest = right.lower > 0 ? right.lower : right.upper;
  Enclosure below(-infinity, -infinity), above(infinity, infinity); // the half lines' ends
  const Enclosure by_lower = pivot.lower < 0 ? Enclosure(nearest) / Enclosure(pivot.lower) : Enclosure(infinity);
  const Enclosure by_upper = pivot.upper > 0 ? Enclosure(nearest) / Enclosure(pivot.upper) : Enclosure(infinity);
  const bool is_positive = right.lower > 0;
  if (pivot.lower < 0) (is_positive ? below : above) = Enclosure(centre) + by_lower;
  if (pivot.upper > 0) (is_positive ? above : below) = Enclosure(centre) + by_upper;
  const bool meets_below = below.upper >= side.lower, meets_above = above.lower <= side.upper;
  if (!meets_below && !meets_above) {
    side = intervals::nothing;
  } else if (!meets_below) {
    side.lower = std::max(side.lower, above.lower);
  } else if (!meets_above) {
    side.upper = std::min(side.upper, below.upper);
  } else if (above.lower > below.upper) {
    const Enclosure without(below.upper, above.lower);
    if (!gap_ || without.width() > gap_->without.width()) gap_ = Gap{i, without};
  }
}

namespace {

/// A congruence that makes a matrix's middle diagonal: what every matrix within becomes by it.
struct Congruence {
  Matrix vectors; ///< its columns; nearly orthogonal, which is enough
  std::vector<Enclosure> diagonal;
  std::vector<double> rest; ///< of each row, what the sizes of its other entries add up to at most
};

std::optional<Congruence> nearly_diagonal(std::span<const Enclosure> matrix, Index n) {
  if (n == 0) return Congruence{};
  const auto size = static_cast<std::size_t>(n);
  Matrix middle(n, n);
  for (Index i = 0; i < n; ++i) {
    for (Index j = 0; j < n; ++j) {
      const Enclosure& entry = matrix[static_cast<std::size_t>(i * n + j)];
      if (!entry.is_finite()) return std::nullopt;
      middle(i, j) = entry.middle();
    }
  }
  SymmetricEigen eigen(n);
  eigen.compute(0.5 * (middle + middle.transpose()));
  Congruence found{eigen.vectors(), std::vector<Enclosure>(size, 0), std::vector<double>(size, 0)};
  const auto vector = [&](std::size_t i, std::size_t j) {
    return Enclosure(found.vectors(static_cast<Index>(i), static_cast<Index>(j)));
  };
  std::vector<Enclosure> half(size * size, 0), product(size * size, 0);
  for (std::size_t i = 0; i < size; ++i) {
    for (std::size_t k = 0; k < size; ++k) {
      for (std::size_t j = 0; j < size; ++j)
        half[i * size + j] = half[i * size + j] + matrix[i * size + k] * vector(k, j);
    }
  }
  for (std::size_t i = 0; i < size; ++i) {
    for (std::size_t k = 0; k < size; ++k) {
      for (std::size_t j = 0; j < size; ++j)
        product[i * size + j] = product[i * size + j] + vector(k, i) * half[k * size + j];
    }
  }
  for (std::size_t i = 0; i < size; ++i) {
    Enclosure rest = 0;
    for (std::size_t j = 0; j < size; ++j) {
      if (j != i) rest = rest + Enclosure(product[i * size + j].magnitude());
    }
    found.diagonal[i] = product[i * size + i];
    found.rest[i] = rest.upper;
  }
  return found;
}

} // namespace

Inertia inertia(std::span<const Enclosure> matrix, Index n) {
  const std::optional<Congruence> found = nearly_diagonal(matrix, n);
  if (!found) return {.unknown = n};
  // What is certain is what the circles say, and then the congruence is regular.
  Inertia signs;
  for (std::size_t i = 0; i < found->rest.size(); ++i) {
    if (found->diagonal[i].lower > found->rest[i])
      ++signs.positive;
    else if (found->diagonal[i].upper < -found->rest[i])
      ++signs.negative;
    else
      ++signs.unknown;
  }
  return signs;
}

std::optional<std::vector<double>> reach_of_bowl(std::span<const Enclosure> matrix, Index n) {
  const std::optional<Congruence> found = nearly_diagonal(matrix, n);
  if (!found) return std::nullopt;
  // With x = V z the form is at least the sum of d_k z_k^2, so that x_i^2 is at most that of V_ik^2 / d_k (Cauchy).
  const auto size = static_cast<std::size_t>(n);
  std::vector<Enclosure> squares(size, 0);
  for (std::size_t k = 0; k < size; ++k) {
    const Enclosure least((found->diagonal[k] - Enclosure(found->rest[k])).lower);
    if (!(least.lower > 0)) return std::nullopt;
    for (std::size_t i = 0; i < size; ++i)
      squares[i] = squares[i] + square(Enclosure(found->vectors(static_cast<Index>(i), static_cast<Index>(k)))) / least;
  }
  std::vector<double> reach;
  for (const Enclosure& each : squares) reach.push_back(sqrt(each).upper);
  return reach;
}

} // namespace tanzen
