#include "tanzen/interval/enclosure.hpp"

#include "constants.hpp"

#include <algorithm>

namespace tanzen {
namespace {

using intervals::above;
using intervals::below;
using intervals::everything;
using intervals::library_error;
using intervals::nothing;

constexpr double largest = std::numeric_limits<double>::max();

// Sums are exact where what rounding left out is zero (Knuth's two-sum); it is a number unless something overflows.
double left_out(double a, double b, double sum) {
  const double part = sum - a;
  return (a - (sum - part)) + (b - part);
}
double add_up(double a, double b) {
  const double sum = a + b;
  return left_out(a, b, sum) <= 0 ? sum : above(sum);
}
double add_down(double a, double b) {
  return -add_up(-a, -b);
}
// Zero times anything is zero, for an infinite end stands for large numbers.
double multiply_up(double a, double b) {
  return a == 0 || b == 0 ? 0 : a == 1 ? b : b == 1 ? a : above(a * b);
}
double multiply_down(double a, double b) {
  return -multiply_up(-a, b);
}
double divide_up(double a, double b) {
  return a == 0 ? 0 : b == 1 ? a : above(a / b);
}
double divide_down(double a, double b) {
  return -divide_up(-a, b);
}

/// By an increasing function of the library, whose values lie between two limits.
template <class Function>
Enclosure increasing(const Enclosure& a, Function&& function, double least = -infinity, double most = infinity) {
  if (a.is_empty()) return nothing;
  return {std::max(least, below(function(a.lower), library_error)),
          std::min(most, above(function(a.upper), library_error))};
}

Enclosure within(const Enclosure& a, double lower, double upper) {
  return common(a, {lower, upper});
}

/// What turns make of angles.
constexpr Enclosure per_turn{0.15915494309189531785264735, 0.15915494309189534560822210};

/// Angles in turns; empty where they are too many, or a whole turn or more, to be told apart.
Enclosure turns_of(const Enclosure& a) {
  constexpr double far = 1e15, turn = 6.2831853071795862;
  if (!(a.lower > -far) || !(a.upper < far) || a.width() >= turn) return nothing;
  return a * per_turn;
}
/// Whether a whole number and `shift` may lie within.
bool may_hit(const Enclosure& turns, double shift) {
  return std::ceil(add_down(turns.lower, -shift)) <= std::floor(add_up(turns.upper, -shift));
}
/// Of a wave with these values at the ends, that may have its top and its bottom in between.
Enclosure wave(double at_lower, double at_upper, bool top, bool bottom) {
  const auto [least, most] = std::minmax(at_lower, at_upper);
  return {bottom ? -1 : std::max(-1.0, below(least, library_error)),
          top ? 1 : std::min(1.0, above(most, library_error))};
}

/// The n-th power of a number that is not negative, rounded one way.
template <class Multiply>
double positive_power(double x, std::uint32_t n, Multiply&& multiply) {
  double result = 1;
  for (double factor = x; n != 0; n >>= 1U) {
    if ((n & 1U) != 0) result = multiply(result, factor);
    if (n > 1) factor = multiply(factor, factor);
  }
  return result;
}
double power_up(double x, std::uint32_t n) {
  return positive_power(x, n, multiply_up);
}
double power_down(double x, std::uint32_t n) {
  return positive_power(x, n, [](double a, double b) { return std::max(0.0, multiply_down(a, b)); });
}

/// b to the power of e at one corner, b >= 0.
Enclosure corner_power(double b, double e) {
  if (b == 0) return e > 0 ? Enclosure(0) : e == 0 ? Enclosure(1) : Enclosure(largest, infinity);
  const double value = std::pow(b, e);
  return {std::max(0.0, below(value, library_error)), above(value, library_error)};
}

} // namespace

double Enclosure::middle() const {
  if (lower == upper) return lower;
  if (lower == -infinity) return upper == infinity ? 0 : -largest;
  if (upper == infinity) return largest;
  return std::clamp(0.5 * lower + 0.5 * upper, lower, upper);
}

double Enclosure::width() const {
  return add_up(upper, -lower);
}

Enclosure operator/(const Enclosure& a, const Enclosure& b) {
  if (b.upper < 0) return -a / -b;
  if (b.lower > 0) {
    const double least = divide_down(a.lower, a.lower >= 0 ? b.upper : b.lower);
    const double most = divide_up(a.upper, a.upper >= 0 ? b.lower : b.upper);
    return {a.lower >= 0 ? std::max(0.0, least) : least, a.upper <= 0 ? std::min(0.0, most) : most};
  }
  if (b.lower == 0 && b.upper > 0) {
    if (a.lower >= 0) return {divide_down(a.lower, b.upper), infinity};
    if (a.upper <= 0) return {-infinity, divide_up(a.upper, b.upper)};
  } else if (b.upper == 0 && b.lower < 0) {
    return -a / -b;
  }
  return everything;
}

Enclosure power(const Enclosure& a, std::int32_t n) {
  if (n == 0) return 1;
  if (n < 0) {
    // The least number has no opposite.
    const bool is_least = n == std::numeric_limits<std::int32_t>::min();
    return is_least ? everything : Enclosure(1) / power(a, -n);
  }
  const auto exponent = static_cast<std::uint32_t>(n);
  if (n % 2 == 0) {
    const Enclosure size = abs(a);
    return {power_down(size.lower, exponent), power_up(size.upper, exponent)};
  }
  return {a.lower >= 0 ? power_down(a.lower, exponent) : -power_up(-a.lower, exponent),
          a.upper >= 0 ? power_up(a.upper, exponent) : -power_down(-a.upper, exponent)};
}

Enclosure power(const Enclosure& a, const Enclosure& b) {
  const Enclosure base = within(a, 0, infinity);
  if (base.is_empty()) return nothing;
  // Extremes lie at corners, for it rises or falls along each operand all the way.
  Enclosure all = hull(corner_power(base.lower, b.lower), corner_power(base.upper, b.lower));
  all = hull(all, hull(corner_power(base.lower, b.upper), corner_power(base.upper, b.upper)));
  if (base.lower == 0 && b.lower <= 0) all = hull(all, {b.upper > 0 ? 0 : all.lower, b.lower < 0 ? infinity : 1});
  if (all.lower == infinity) all.lower = largest;
  return all;
}

Enclosure sqrt(const Enclosure& a) {
  const Enclosure part = within(a, 0, infinity);
  if (part.is_empty()) return nothing;
  return {part.lower == 0 ? 0 : below(std::sqrt(part.lower)), part.upper == 0 ? 0 : above(std::sqrt(part.upper))};
}

Enclosure cbrt(const Enclosure& a) {
  return {a.lower == 0 ? 0 : below(std::cbrt(a.lower), library_error),
          a.upper == 0 ? 0 : above(std::cbrt(a.upper), library_error)};
}

Enclosure exp(const Enclosure& a) {
  return increasing(
      a, [](double x) { return std::exp(x); }, 0);
}

Enclosure log(const Enclosure& a) {
  const Enclosure part = within(a, 0, infinity);
  if (part.is_empty() || part.upper == 0) return nothing;
  return increasing(part, [](double x) { return std::log(x); });
}

Enclosure log2(const Enclosure& a) {
  const Enclosure part = within(a, 0, infinity);
  if (part.is_empty() || part.upper == 0) return nothing;
  return increasing(part, [](double x) { return std::log2(x); });
}

Enclosure log10(const Enclosure& a) {
  const Enclosure part = within(a, 0, infinity);
  if (part.is_empty() || part.upper == 0) return nothing;
  return increasing(part, [](double x) { return std::log10(x); });
}

Enclosure sin(const Enclosure& a) {
  const Enclosure turns = turns_of(a);
  if (turns.is_empty()) return {-1, 1};
  return wave(std::sin(a.lower), std::sin(a.upper), may_hit(turns, 0.25), may_hit(turns, -0.25));
}

Enclosure cos(const Enclosure& a) {
  const Enclosure turns = turns_of(a);
  if (turns.is_empty()) return {-1, 1};
  return wave(std::cos(a.lower), std::cos(a.upper), may_hit(turns, 0), may_hit(turns, 0.5));
}

Enclosure tan(const Enclosure& a) {
  const Enclosure turns = turns_of(a);
  if (turns.is_empty() || may_hit(turns, 0.25) || may_hit(turns, -0.25)) return everything;
  return increasing(a, [](double x) { return std::tan(x); });
}

Enclosure asin(const Enclosure& a) {
  return increasing(within(a, -1, 1), [](double x) { return std::asin(x); });
}

Enclosure acos(const Enclosure& a) {
  const Enclosure part = within(a, -1, 1);
  if (part.is_empty()) return nothing;
  return {std::max(0.0, below(std::acos(part.upper), library_error)), above(std::acos(part.lower), library_error)};
}

Enclosure atan(const Enclosure& a) {
  return increasing(a, [](double x) { return std::atan(x); });
}

Enclosure atan2(const Enclosure& y, const Enclosure& x) {
  const bool meets_cut = x.lower <= 0 && y.contains(0);
  if (meets_cut) return {-pi.upper, pi.upper};
  // Away from the cut the angle rises or falls along each side of the box: its extremes are at corners.
  Enclosure all = nothing;
  for (const double v : {y.lower, y.upper}) {
    for (const double u : {x.lower, x.upper}) {
      const double angle = std::atan2(v, u);
      all = hull(all, {below(angle, library_error), above(angle, library_error)});
    }
  }
  return all;
}

Enclosure sinh(const Enclosure& a) {
  return increasing(a, [](double x) { return std::sinh(x); });
}

Enclosure cosh(const Enclosure& a) {
  return increasing(
      abs(a), [](double x) { return std::cosh(x); }, 1);
}

Enclosure tanh(const Enclosure& a) {
  return increasing(
      a, [](double x) { return std::tanh(x); }, -1, 1);
}

Enclosure hypot(const Enclosure& a, const Enclosure& b) {
  const Enclosure u = abs(a), v = abs(b);
  const double least = std::hypot(u.lower, v.lower);
  return {std::max(0.0, below(least, least == 0 ? 0 : library_error)),
          above(std::hypot(u.upper, v.upper), library_error)};
}

Enclosure min(const Enclosure& a, const Enclosure& b) {
  return {std::min(a.lower, b.lower), std::min(a.upper, b.upper)};
}

Enclosure max(const Enclosure& a, const Enclosure& b) {
  return {std::max(a.lower, b.lower), std::max(a.upper, b.upper)};
}

} // namespace tanzen
