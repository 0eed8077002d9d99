#include "operation_slopes.hpp"

#include "constants.hpp"

#include <algorithm>

namespace tanzen {
namespace {

using intervals::everything;
using intervals::infinity;

Enclosure not_negative(const Enclosure& a) {
  return common(a, {0, infinity});
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
                 const Enclosure& value) {
  Slopes s;
  switch (operation) {
  case Operation::negate: s.by_a = -1; break;
  case Operation::absolute: s.by_a = a.lower > 0 ? Enclosure(1) : a.upper < 0 ? Enclosure(-1) : Enclosure(-1, 1); break;
  case Operation::square_root:
    s.by_a = Enclosure(0.5) / value;
    s.by_aa = Enclosure(-0.25) / power(value, 3);
    break;
  case Operation::cube_root:
    s.by_a = Enclosure(1) / (Enclosure(3) * square(value));
    s.by_aa = Enclosure(-2) / (Enclosure(9) * power(value, 5));
    break;
  case Operation::exp: s.by_a = s.by_aa = value; break;
  case Operation::log:
    s.by_a = Enclosure(1) / not_negative(a);
    s.by_aa = Enclosure(-1) / square(not_negative(a));
    break;
  case Operation::log2:
    s.by_a = Enclosure(1) / (not_negative(a) * log_of_two);
    s.by_aa = Enclosure(-1) / (square(not_negative(a)) * log_of_two);
    break;
  case Operation::log10:
    s.by_a = Enclosure(1) / (not_negative(a) * log_of_ten);
    s.by_aa = Enclosure(-1) / (square(not_negative(a)) * log_of_ten);
    break;
  case Operation::sin:
    s.by_a = cos(a);
    s.by_aa = -value;
    break;
  case Operation::cos:
    s.by_a = -sin(a);
    s.by_aa = -value;
    break;
  case Operation::tan:
    s.by_a = Enclosure(1) + square(value);
    s.by_aa = Enclosure(2) * value * s.by_a;
    break;
  case Operation::asin:
  case Operation::acos: {
    const Enclosure part = common(a, {-1, 1}), left = not_negative(Enclosure(1) - square(part)), root = sqrt(left);
    const Enclosure sign = operation == Operation::asin ? 1 : -1;
    s.by_a = sign / root;
    s.by_aa = sign * part / (left * root);
    break;
  }
  case Operation::atan:
    s.by_a = Enclosure(1) / (Enclosure(1) + square(a));
    s.by_aa = Enclosure(-2) * a * square(s.by_a);
    break;
  case Operation::sinh:
    s.by_a = cosh(a);
    s.by_aa = value;
    break;
  case Operation::cosh:
    s.by_a = sinh(a);
    s.by_aa = value;
    break;
  case Operation::tanh:
    s.by_a = common(Enclosure(1) - square(value), {0, 1});
    s.by_aa = Enclosure(-2) * value * s.by_a;
    break;
  case Operation::square:
    s.by_a = Enclosure(2) * a;
    s.by_aa = 2;
    break;
  case Operation::reciprocal:
    s.by_a = -square(value);
    s.by_aa = Enclosure(2) * power(value, 3);
    break;
  case Operation::integer_power: {
    const double n = exponent;
    s.by_a = Enclosure(n) * power(a, exponent - 1);
    s.by_aa = Enclosure(n) * Enclosure(n - 1) * power(a, exponent - 2);
    break;
  }
  case Operation::add: s.by_a = s.by_b = 1; break;
  case Operation::subtract:
    s.by_a = 1;
    s.by_b = -1;
    break;
  case Operation::multiply:
    s.by_a = b;
    s.by_b = a;
    s.by_ab = 1;
    break;
  case Operation::divide:
    s.by_a = Enclosure(1) / b;
    s.by_b = -(value / b);
    s.by_ab = Enclosure(-1) / square(b);
    s.by_bb = Enclosure(2) * value / square(b);
    break;
  case Operation::power: {
    const Enclosure base = not_negative(a);
    const Enclosure lower = power(base, b - Enclosure(1));
    s.by_a = b * lower;
    s.by_aa = b * (b - Enclosure(1)) * power(base, b - Enclosure(2));
    s.by_b = power_times_log(base, b, value);
    s.by_ab = lower + b * power_times_log(base, b - Enclosure(1), lower);
    s.by_bb = base.lower > 0 ? value * square(log(base)) : everything;
    break;
  }
  case Operation::hypot: {
    s.by_a = common(a / value, {-1, 1});
    s.by_b = common(b / value, {-1, 1});
    const Enclosure cube = power(value, 3);
    s.by_aa = square(b) / cube;
    s.by_ab = -(a * b / cube);
    s.by_bb = square(a) / cube;
    break;
  }
  case Operation::atan2: {
    const Enclosure squared = square(a) + square(b), fourth = square(squared);
    s.by_a = b / squared;
    s.by_b = -(a / squared);
    s.by_aa = -(Enclosure(2) * a * b / fourth);
    s.by_bb = -s.by_aa;
    s.by_ab = (square(a) - square(b)) / fourth;
    break;
  }
  case Operation::minimum:
  case Operation::maximum: {
    const bool takes_a = operation == Operation::minimum ? a.upper < b.lower : a.lower > b.upper;
    const bool takes_b = operation == Operation::minimum ? b.upper < a.lower : b.lower > a.upper;
    s.by_a = takes_a ? Enclosure(1) : takes_b ? Enclosure(0) : Enclosure(0, 1);
    s.by_b = takes_b ? Enclosure(1) : takes_a ? Enclosure(0) : Enclosure(0, 1);
    break;
  }
  default: break; // steps: flat wherever they do not jump
  }
  return s;
}

} // namespace tanzen
