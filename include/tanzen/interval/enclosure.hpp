#pragma once

#include "tanzen/interval/rounding.hpp"
#include "tanzen/numeric/constants.hpp"

#include <bit>
#include <cmath>
#include <cstdint>
#include <limits>

namespace tanzen {

/// A closed interval of real numbers, its ends doubles or infinities: what arithmetic on it returns encloses what the
/// same arithmetic on real numbers within would (Moore, Kearfott and Cloud, 2009). Sums, products, quotients and roots
/// are rounded outward by at most one unit in the last place beyond the nearest number; the mathematical library's
/// functions by `library_error` units, which is more than the library states and than tests against long arithmetic
/// find. An interval whose lower end is above its upper one is empty; an end that is no number, where infinities met,
/// says nothing.
///
/// What is assumed: doubles and their arithmetic are those of IEEE 754, rounded to nearest.
struct Enclosure {
  double lower = 0;
  double upper = 0;

  constexpr Enclosure() = default;
  constexpr Enclosure(double number) : lower(number), upper(number) {}
  constexpr Enclosure(double from, double to) : lower(from), upper(to) {}

  [[nodiscard]] constexpr bool contains(double x) const { return lower <= x && x <= upper; }
  [[nodiscard]] constexpr bool is_empty() const { return lower > upper; }
  [[nodiscard]] constexpr bool is_point() const { return lower == upper; }
  [[nodiscard]] bool is_finite() const { return std::isfinite(lower) && std::isfinite(upper); }
  /// A number within, near the middle. Requires that it is not empty.
  [[nodiscard]] double middle() const;
  /// At least as long as it is.
  [[nodiscard]] double width() const;
  /// The largest of the absolute values within.
  [[nodiscard]] double magnitude() const {
    return std::abs(lower) > std::abs(upper) ? std::abs(lower) : std::abs(upper);
  }

  constexpr bool operator==(const Enclosure&) const = default;
};

namespace intervals {

inline constexpr Enclosure everything{-infinity, infinity};
inline constexpr Enclosure nothing{infinity, -infinity};

/// Units in the last place by which ends from the mathematical library's functions are moved outward. Its stated errors
/// are at most 1 for most of them and 2 for the hyperbolic ones.
inline constexpr int library_error = 4;

/// The number that many representable ones above or below.
[[nodiscard]] inline double moved(double x, int places) {
  const auto order = [](std::int64_t bits) {
    return bits < 0 ? std::numeric_limits<std::int64_t>::min() - bits : bits;
  };
  const std::int64_t place = order(std::bit_cast<std::int64_t>(x)) + places;
  return std::bit_cast<double>(order(place));
}
[[nodiscard]] inline double above(double x, int places = 1) {
  if (!(x < infinity)) return x;
  const double next = moved(x, places);
  return next < infinity ? next : infinity; // beyond it there are no numbers
}
[[nodiscard]] inline double below(double x, int places = 1) {
  return x > -infinity ? -above(-x, places) : x;
}

} // namespace intervals

/// To and from its ends, the lower one with its sign turned.
[[nodiscard]] inline intervals::Pair ends_of(const Enclosure& a) {
  return intervals::with_first_turned(intervals::Pair{a.lower, a.upper});
}
[[nodiscard]] inline Enclosure enclosing(intervals::Pair ends) {
  const intervals::Pair turned = intervals::with_first_turned(ends);
  return {turned[0], turned[1]};
}

/// The smallest that holds both; what both hold. An end of the second that is no number changes nothing.
[[nodiscard]] constexpr Enclosure hull(const Enclosure& a, const Enclosure& b) {
  return {b.lower < a.lower ? b.lower : a.lower, b.upper > a.upper ? b.upper : a.upper};
}
[[nodiscard]] constexpr Enclosure common(const Enclosure& a, const Enclosure& b) {
  return {b.lower > a.lower ? b.lower : a.lower, b.upper < a.upper ? b.upper : a.upper};
}

[[nodiscard]] inline Enclosure operator-(const Enclosure& a) {
  return {-a.upper, -a.lower};
}
[[nodiscard]] inline Enclosure operator+(const Enclosure& a, const Enclosure& b) {
  return enclosing(intervals::add_upward(ends_of(a), ends_of(b)));
}
[[nodiscard]] inline Enclosure operator-(const Enclosure& a, const Enclosure& b) {
  using intervals::add_upward, intervals::Pair;
  return enclosing(add_upward(ends_of(a), Pair{b.upper, -b.lower}));
}
[[nodiscard]] inline Enclosure operator*(const Enclosure& a, const Enclosure& b) {
  using intervals::multiply_upward, intervals::Pair;
  if (a.lower >= 0) {
    // The lower end of the product takes the least of a where b is not negative, and so on.
    const double of_lower = b.lower >= 0 ? a.lower : a.upper, of_upper = b.upper <= 0 ? a.lower : a.upper;
    return enclosing(multiply_upward(Pair{-of_lower, of_upper}, Pair{b.lower, b.upper}));
  }
  if (a.upper <= 0) {
    const double of_lower = b.upper <= 0 ? a.upper : a.lower, of_upper = b.lower >= 0 ? a.upper : a.lower;
    return enclosing(multiply_upward(Pair{-of_lower, of_upper}, Pair{b.upper, b.lower}));
  }
  if (b.lower >= 0) return enclosing(multiply_upward(Pair{-a.lower, a.upper}, Pair{b.upper, b.upper}));
  if (b.upper <= 0) return enclosing(multiply_upward(Pair{-a.upper, a.lower}, Pair{b.lower, b.lower}));
  return hull(enclosing(multiply_upward(Pair{-a.lower, a.lower}, Pair{b.upper, b.lower})),
              enclosing(multiply_upward(Pair{-a.upper, a.upper}, Pair{b.lower, b.upper})));
}
/// With zero in `b` a half line where the quotients make one, otherwise everything.
[[nodiscard]] Enclosure operator/(const Enclosure& a, const Enclosure& b);

// Of the part of an interval where a function has values; none is empty where there is no such part.
[[nodiscard]] inline Enclosure abs(const Enclosure& a) {
  if (a.lower >= 0) return a;
  return a.upper <= 0 ? -a : Enclosure(0, a.magnitude());
}
[[nodiscard]] inline Enclosure square(const Enclosure& a) {
  using intervals::Pair;
  const double one = std::abs(a.lower), other = std::abs(a.upper);
  const double most = one < other ? other : one, least = one < other ? one : other;
  const Enclosure all = enclosing(intervals::square_upward(Pair{-least, most}, Pair{least, most}));
  return {a.contains(0) || all.lower < 0 ? 0 : all.lower, all.upper};
}
[[nodiscard]] Enclosure power(const Enclosure& a, std::int32_t n);
/// Of the part of `a` that is not negative.
[[nodiscard]] Enclosure power(const Enclosure& a, const Enclosure& b);
[[nodiscard]] Enclosure sqrt(const Enclosure& a);
[[nodiscard]] Enclosure cbrt(const Enclosure& a);
[[nodiscard]] Enclosure exp(const Enclosure& a);
[[nodiscard]] Enclosure log(const Enclosure& a);
[[nodiscard]] Enclosure log2(const Enclosure& a);
[[nodiscard]] Enclosure log10(const Enclosure& a);
[[nodiscard]] Enclosure sin(const Enclosure& a);
[[nodiscard]] Enclosure cos(const Enclosure& a);
/// Everything where a pole may lie within.
[[nodiscard]] Enclosure tan(const Enclosure& a);
[[nodiscard]] Enclosure asin(const Enclosure& a);
[[nodiscard]] Enclosure acos(const Enclosure& a);
[[nodiscard]] Enclosure atan(const Enclosure& a);
/// Of y and x, as the library's.
[[nodiscard]] Enclosure atan2(const Enclosure& y, const Enclosure& x);
[[nodiscard]] Enclosure sinh(const Enclosure& a);
[[nodiscard]] Enclosure cosh(const Enclosure& a);
[[nodiscard]] Enclosure tanh(const Enclosure& a);
[[nodiscard]] Enclosure hypot(const Enclosure& a, const Enclosure& b);
[[nodiscard]] Enclosure min(const Enclosure& a, const Enclosure& b);
[[nodiscard]] Enclosure max(const Enclosure& a, const Enclosure& b);

} // namespace tanzen
