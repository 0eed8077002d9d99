#include "constants.hpp"
#include "operation_ranges.hpp"
#include "tanzen/interval/interval_tape.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>

namespace tanzen {
namespace {

using intervals::nothing;

Enclosure hull_of_parts(const Enclosure& one, const Enclosure& other) {
  if (one.is_empty()) return other;
  return other.is_empty() ? one : hull(one, other);
}

/// Operands whose results lie in `result`, for a function that is even or odd and has an inverse where its operand is
/// not negative.
template <class Inverse>
Enclosure of_both_signs(const Enclosure& a, const Enclosure& result, bool is_even, Inverse&& inverse) {
  const Enclosure rising = common(result, {0, infinity});
  const Enclosure falling = is_even ? rising : common(-result, {0, infinity});
  const Enclosure right = rising.is_empty() ? nothing : common(a, inverse(rising));
  const Enclosure left = falling.is_empty() ? nothing : common(a, -inverse(falling));
  return hull_of_parts(left, right);
}

/// What lies within `a` of two pieces that repeat.
Enclosure of_periods(const Enclosure& a, const Enclosure& period, const Enclosure& piece, const Enclosure& other) {
  constexpr double most_periods = 20; // beyond, an end moves by little
  if (!a.is_finite() || a.width() > most_periods * period.lower) return a;
  const double first = std::floor(a.lower / period.lower) - 2, last = std::ceil(a.upper / period.lower) + 2;
  Enclosure found = nothing;
  for (double k = first; k <= last; ++k) {
    const Enclosure moved = Enclosure(k) * period;
    found = hull_of_parts(found, common(a, piece + moved));
    found = hull_of_parts(found, common(a, other + moved));
  }
  return found;
}

Enclosure root_of(const Enclosure& result, std::int32_t n) {
  return n == 2 ? sqrt(result) : power(result, Enclosure(1) / Enclosure(n));
}

/// Operands `a` of an operation of one, whose results lie in `result`. Operations that are not listed leave all.
Enclosure undone(Operation operation, std::int32_t exponent, const Enclosure& a, const Enclosure& result) {
  constexpr Enclosure from_minus_one{-1, 1};
  switch (operation) {
  case Operation::negate: return -result;
  case Operation::absolute: return of_both_signs(a, result, true, [](const Enclosure& r) { return r; });
  case Operation::floor: return {std::ceil(result.lower), std::floor(result.upper) + 1};
  case Operation::ceil: return {std::ceil(result.lower) - 1, std::floor(result.upper)};
  case Operation::square_root: return square(common(result, {0, infinity}));
  case Operation::cube_root: return power(result, 3);
  case Operation::exp: return result.upper <= 0 ? nothing : log(result);
  case Operation::log: return exp(result);
  case Operation::log2: return exp(result * log_of_two);
  case Operation::log10: return exp(result * log_of_ten);
  case Operation::sin: {
    const Enclosure part = common(result, from_minus_one);
    if (part.is_empty()) return nothing;
    const Enclosure rising = asin(part);
    return of_periods(a, Enclosure(2) * pi, rising, pi - rising);
  }
  case Operation::cos: {
    const Enclosure part = common(result, from_minus_one);
    if (part.is_empty()) return nothing;
    const Enclosure falling = acos(part);
    return of_periods(a, Enclosure(2) * pi, falling, -falling);
  }
  case Operation::tan: return of_periods(a, pi, atan(result), atan(result));
  case Operation::asin: {
    const Enclosure part = common(result, {-half_pi.upper, half_pi.upper});
    return part.is_empty() ? nothing : sin(part);
  }
  case Operation::acos: {
    const Enclosure part = common(result, {0, pi.upper});
    return part.is_empty() ? nothing : cos(part);
  }
  case Operation::atan: return result.lower > -half_pi.lower && result.upper < half_pi.lower ? tan(result) : a;
  case Operation::square: return of_both_signs(a, result, true, [](const Enclosure& r) { return sqrt(r); });
  case Operation::reciprocal: return Enclosure(1) / result;
  case Operation::integer_power: {
    if (exponent == 0) return a;
    const Enclosure whole = exponent < 0 ? Enclosure(1) / result : result;
    const std::int32_t n = std::abs(exponent);
    return of_both_signs(a, whole, n % 2 == 0, [n](const Enclosure& r) { return root_of(r, n); });
  }
  default: return a;
  }
}

/// Narrows the operands of an operation of two, whose results lie in `result`.
void undo(Operation operation, const Enclosure& result, Enclosure& a, Enclosure& b) {
  switch (operation) {
  case Operation::add:
    a = common(a, result - b);
    if (!a.is_empty()) b = common(b, result - a);
    break;
  case Operation::subtract:
    a = common(a, result + b);
    if (!a.is_empty()) b = common(b, a - result);
    break;
  case Operation::multiply:
    if (!(b.contains(0) && result.contains(0))) a = common(a, result / b);
    if (!a.is_empty() && !(a.contains(0) && result.contains(0))) b = common(b, result / a);
    break;
  case Operation::divide:
    a = common(a, result * b);
    if (!a.is_empty() && !(a.contains(0) && result.contains(0))) b = common(b, a / result);
    break;
  case Operation::power:
    if (a.lower >= 0 && b.is_point() && b.lower != 0) {
      const Enclosure part = common(result, {0, infinity});
      a = part.is_empty() ? nothing : common(a, power(part, Enclosure(1) / b));
    } else if (a.is_point() && a.lower > 0 && a.lower != 1) {
      b = result.upper <= 0 ? nothing : common(b, log(result) / log(a));
    }
    break;
  case Operation::hypot: {
    if (result.upper < 0) {
      a = nothing;
      break;
    }
    const Enclosure squared = square(common(result, {0, infinity}));
    const auto rest = [&](const Enclosure& from, const Enclosure& other) {
      const Enclosure left = common(squared - square(other), {0, infinity});
      return left.is_empty() ? nothing : of_both_signs(from, left, true, [](const Enclosure& r) { return sqrt(r); });
    };
    a = rest(a, b);
    if (!a.is_empty()) b = rest(b, a);
    break;
  }
  case Operation::minimum:
  case Operation::maximum: {
    const bool is_minimum = operation == Operation::minimum;
    const Enclosure open = is_minimum ? Enclosure(result.lower, infinity) : Enclosure(-infinity, result.upper);
    const auto is_beyond = [&](const Enclosure& e) {
      return is_minimum ? e.lower > result.upper : e.upper < result.lower;
    };
    const bool takes_b = is_beyond(a), takes_a = is_beyond(b);
    a = takes_a ? common(a, result) : common(a, open);
    b = takes_b ? common(b, result) : common(b, open);
    break;
  }
  default: break;
  }
}

} // namespace

bool IntervalTape::contract(const Enclosure& range, std::span<Enclosure> box, Workspace& work, Index output) const {
  assert(box.size() == variables_);
  std::vector<Enclosure>& left = work.left;
  left = work.values;
  work.counts.assign(left.size(), 0);
  const std::size_t last = slot_of(output);
  left[last] = common(left[last], range);
  if (left[last].is_empty()) return false;
  work.counts[last] = 1;
  for (std::size_t k = last >= first_ ? last - first_ + 1 : 0; k-- > 0;) {
    const Step& step = steps_[k];
    const std::size_t slot = first_ + k;
    if (work.counts[slot] == 0) continue;
    const Enclosure result = left[slot];
    if (result.is_empty()) return false;
    switch (step.operation) {
    // A condition where an operand has no value does not hold, which is a value.
    case Operation::less:
    case Operation::less_equal:
    case Operation::equal: continue;
    case Operation::select: {
      const Enclosure& condition = work.values[step.a];
      const bool may_have_none = (work.marks[step.a] & (marks::nowhere | marks::partly)) != 0;
      if (may_have_none || (condition.contains(0) && condition != Enclosure(0))) continue;
      const std::size_t taken = condition.contains(0) ? step.c : step.b;
      left[taken] = common(left[taken], result);
      work.counts[taken] = 1;
      continue;
    }
    default: break;
    }
    work.counts[step.a] = 1;
    Enclosure& a = left[step.a];
    if (!step.has_second) {
      a = common(a, undone(step.operation, step.exponent, a, result));
    } else if (step.a != step.b) {
      work.counts[step.b] = 1;
      undo(step.operation, result, a, left[step.b]);
      if (left[step.b].is_empty()) return false;
    }
    if (a.is_empty()) return false;
  }
  std::copy_n(left.begin(), variables_, box.begin());
  return true;
}

} // namespace tanzen
