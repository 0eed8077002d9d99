#include "operation_slopes.hpp"

#include "constants.hpp"

#include <algorithm>

namespace tanzen {
namespace {

using intervals::everything;

Enclosure not_negative(const Enclosure& a) {
  return common(a, {0, infinity});
}

/// 1 - a^2, of the part of `a` where that is not negative.
Enclosure room_to_one(const Enclosure& a) {
  return not_negative(Enclosure(1) - square(common(a, {-1, 1})));
}

/// x^y log(x) over x >= 0, where the first factor may be zero and the second infinite.
Enclosure power_times_log(const Enclosure& x, const Enclosure& y, const Enclosure& value) {
  if (x.lower > 0) return value * log(x);
  if (!(y.lower > 0)) return everything;
  // From zero down to -1 / (e y), then up.
  constexpr Enclosure e{2.7182818284590450908, 2.7182818284590455349};
  const Enclosure top = x.upper > 1 ? power(Enclosure(x.upper), y) * log(Enclosure(x.upper)) : Enclosure(0);
  return {(Enclosure(-1) / (e * Enclosure(y.lower))).lower, std::max(0.0, top.upper)};
}

} // namespace

Slopes slopes_of(Operation operation, std::int32_t exponent, const Enclosure& a, const Enclosure& b,
                 const Enclosure& value, bool moves_b) {
  const Enclosure one = 1;
  switch (operation) {
  case Operation::negate: return {-1};
  case Operation::absolute: return {a.lower > 0 ? one : a.upper < 0 ? -one : Enclosure(-1, 1)};
  case Operation::square_root: return {Enclosure(0.5) / value};
  case Operation::cube_root: return {one / (Enclosure(3) * square(value))};
  case Operation::exp: return {value};
  case Operation::log: return {one / not_negative(a)};
  case Operation::log2: return {one / (not_negative(a) * log_of_two)};
  case Operation::log10: return {one / (not_negative(a) * log_of_ten)};
  case Operation::sin: return {cos(a)};
  case Operation::cos: return {-sin(a)};
  case Operation::tan: return {one + square(value)};
  case Operation::asin: return {one / sqrt(room_to_one(a))};
  case Operation::acos: return {-(one / sqrt(room_to_one(a)))};
  case Operation::atan: return {one / (one + square(a))};
  case Operation::sinh: return {cosh(a)};
  case Operation::cosh: return {sinh(a)};
  case Operation::tanh: return {common(one - square(value), {0, 1})};
  case Operation::square: return {Enclosure(2) * a};
  case Operation::reciprocal: return {-square(value)};
  case Operation::integer_power: return {Enclosure(exponent) * power(a, exponent - 1)};
  case Operation::add: return {one, one};
  case Operation::subtract: return {one, -one};
  case Operation::multiply: return {b, a};
  case Operation::divide: return {one / b, -(value / b)};
  case Operation::power: {
    const Enclosure base = not_negative(a);
    return {b * power(base, b - one), moves_b ? power_times_log(base, b, value) : 0};
  }
  case Operation::hypot: return {common(a / value, {-1, 1}), common(b / value, {-1, 1})};
  case Operation::atan2: {
    const Enclosure squared = square(a) + square(b);
    return {b / squared, -(a / squared)};
  }
  case Operation::minimum:
  case Operation::maximum: {
    const bool takes_a = operation == Operation::minimum ? a.upper < b.lower : a.lower > b.upper;
    const bool takes_b = operation == Operation::minimum ? b.upper < a.lower : b.lower > a.upper;
    const Enclosure either = takes_a || takes_b ? Enclosure(0) : Enclosure(0, 1);
    return {takes_a ? one : either, takes_b ? one : either};
  }
  default: return {}; // steps: flat wherever they do not jump
  }
}

Bends bends_of(Operation operation, std::int32_t exponent, const Enclosure& a, const Enclosure& b,
               const Enclosure& value, bool moves_b) {
  const Enclosure one = 1, two = 2;
  switch (operation) {
  case Operation::square_root: return {Enclosure(-0.25) / power(value, 3)};
  case Operation::cube_root: return {-two / (Enclosure(9) * power(value, 5))};
  case Operation::exp: return {value};
  case Operation::log: return {-one / square(not_negative(a))};
  case Operation::log2: return {-one / (square(not_negative(a)) * log_of_two)};
  case Operation::log10: return {-one / (square(not_negative(a)) * log_of_ten)};
  case Operation::sin:
  case Operation::cos: return {-value};
  case Operation::tan: return {two * value * (one + square(value))};
  case Operation::asin:
  case Operation::acos: {
    const Enclosure part = common(a, {-1, 1}), left = room_to_one(a);
    const Enclosure bend = part / (left * sqrt(left));
    return {operation == Operation::asin ? bend : -bend};
  }
  case Operation::atan: return {-two * a * square(one / (one + square(a)))};
  case Operation::sinh:
  case Operation::cosh: return {value};
  case Operation::tanh: return {-two * value * common(one - square(value), {0, 1})};
  case Operation::square: return {two};
  case Operation::reciprocal: return {two * power(value, 3)};
  case Operation::integer_power: {
    const double n = exponent;
    return {Enclosure(n) * Enclosure(n - 1) * power(a, exponent - 2)};
  }
  case Operation::multiply: return {0, one, 0};
  case Operation::divide: {
    const Enclosure squared = square(b);
    return {0, -one / squared, two * value / squared};
  }
  case Operation::power: {
    const Enclosure base = not_negative(a), by_aa = b * (b - one) * power(base, b - two);
    if (!moves_b) return {by_aa};
    const Enclosure lower = power(base, b - one);
    return {by_aa, lower + b * power_times_log(base, b - one, lower),
            base.lower > 0 ? value * square(log(base)) : everything};
  }
  case Operation::hypot: {
    const Enclosure cube = power(value, 3);
    return {square(b) / cube, -(a * b / cube), square(a) / cube};
  }
  case Operation::atan2: {
    const Enclosure fourth = square(square(a) + square(b)), by_aa = -(two * a * b / fourth);
    return {by_aa, (square(a) - square(b)) / fourth, -by_aa};
  }
  default: return {};
  }
}

} // namespace tanzen
