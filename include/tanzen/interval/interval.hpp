#pragma once

#include <bit>
#include <cmath>
#include <cstdint>
#include <limits>

namespace tanzen {

/// A closed interval of real numbers, its ends doubles or infinities: what arithmetic on it returns encloses what the
/// same arithmetic on real numbers within would (Moore, Kearfott and Cloud, 2009). Sums, products, quotients and roots
/// are rounded outward by at most one unit in the last place beyond the nearest number; the mathematical library's
/// functions by `library_error` units, which is more than the library states and than tests against long arithmetic
/// find. An interval whose lower end is above its upper one is empty.
///
/// What is assumed: doubles and their arithmetic are those of IEEE 754, rounded to nearest.
struct Interval {
  double lower = 0;
  double upper = 0;

  constexpr Interval() = default;
  constexpr Interval(double number) : lower(number), upper(number) {}
  constexpr Interval(double from, double to) : lower(from), upper(to) {}

  [[nodiscard]] constexpr bool contains(double x) const { return lower <= x && x <= upper; }
  [[nodiscard]] constexpr bool is_empty() const { return !(lower <= upper); }
  [[nodiscard]] constexpr bool is_point() const { return lower == upper; }
  [[nodiscard]] bool is_finite() const { return std::isfinite(lower) && std::isfinite(upper); }
  /// A number within, near the middle. Requires that it is not empty.
  [[nodiscard]] double middle() const;
  /// At least as long as it is.
  [[nodiscard]] double width() const;
  /// The largest of the absolute values within.
  [[nodiscard]] double magnitude() const { return std::fmax(std::abs(lower), std::abs(upper)); }

  constexpr bool operator==(const Interval&) const = default;
};

namespace intervals {

inline constexpr double infinity = std::numeric_limits<double>::infinity();
inline constexpr Interval everything{-infinity, infinity};
inline constexpr Interval nothing{infinity, -infinity};

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
  return x < infinity ? std::fmin(moved(x, places), infinity) : x;
}
[[nodiscard]] inline double below(double x, int places = 1) {
  return x > -infinity ? -above(-x, places) : x;
}

} // namespace intervals

/// The smallest that holds both; what both hold.
[[nodiscard]] inline Interval hull(const Interval& a, const Interval& b) {
  return {std::fmin(a.lower, b.lower), std::fmax(a.upper, b.upper)};
}
[[nodiscard]] inline Interval common(const Interval& a, const Interval& b) {
  return {std::fmax(a.lower, b.lower), std::fmin(a.upper, b.upper)};
}

[[nodiscard]] inline Interval operator-(const Interval& a) {
  return {-a.upper, -a.lower};
}
[[nodiscard]] Interval operator+(const Interval& a, const Interval& b);
[[nodiscard]] Interval operator-(const Interval& a, const Interval& b);
[[nodiscard]] Interval operator*(const Interval& a, const Interval& b);
/// With zero in `b` a half line where the quotients make one, otherwise everything.
[[nodiscard]] Interval operator/(const Interval& a, const Interval& b);

// Of the part of an interval where a function has values; none is empty where there is no such part.
[[nodiscard]] Interval abs(const Interval& a);
[[nodiscard]] Interval square(const Interval& a);
[[nodiscard]] Interval power(const Interval& a, std::int32_t n);
/// Of the part of `a` that is not negative.
[[nodiscard]] Interval power(const Interval& a, const Interval& b);
[[nodiscard]] Interval sqrt(const Interval& a);
[[nodiscard]] Interval cbrt(const Interval& a);
[[nodiscard]] Interval exp(const Interval& a);
[[nodiscard]] Interval log(const Interval& a);
[[nodiscard]] Interval log2(const Interval& a);
[[nodiscard]] Interval log10(const Interval& a);
[[nodiscard]] Interval sin(const Interval& a);
[[nodiscard]] Interval cos(const Interval& a);
/// Everything where a pole may lie within.
[[nodiscard]] Interval tan(const Interval& a);
[[nodiscard]] Interval asin(const Interval& a);
[[nodiscard]] Interval acos(const Interval& a);
[[nodiscard]] Interval atan(const Interval& a);
/// Of y and x, as the library's.
[[nodiscard]] Interval atan2(const Interval& y, const Interval& x);
[[nodiscard]] Interval sinh(const Interval& a);
[[nodiscard]] Interval cosh(const Interval& a);
[[nodiscard]] Interval tanh(const Interval& a);
[[nodiscard]] Interval hypot(const Interval& a, const Interval& b);
[[nodiscard]] Interval min(const Interval& a, const Interval& b);
[[nodiscard]] Interval max(const Interval& a, const Interval& b);

} // namespace tanzen
