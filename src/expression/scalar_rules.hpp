#pragma once

#include "tanzen/expression/dual.hpp"
#include "tanzen/expression/operation.hpp"

#include <cmath>
#include <cstdint>
#include <limits>

/// What every operation computes and how it changes, each written once, for doubles and for dual numbers.
/// Folding of constants, tapes and derivatives all come from here.
namespace tanzen::rules {

inline Dual operator-(const Dual& x) {
  return {-x.value, -x.change};
}
inline Dual operator+(const Dual& x, const Dual& y) {
  return {x.value + y.value, x.change + y.change};
}
inline Dual operator-(const Dual& x, const Dual& y) {
  return {x.value - y.value, x.change - y.change};
}
inline Dual operator*(const Dual& x, const Dual& y) {
  return {x.value * y.value, x.change * y.value + x.value * y.change};
}
inline Dual operator/(const Dual& x, const Dual& y) {
  const double quotient = x.value / y.value;
  return {quotient, (x.change - quotient * y.change) / y.value};
}

using Op = Operation;

inline double number(double x) {
  return x;
}
inline double number(const Dual& x) {
  return x.value;
}

/// value and slope at x.value, continued along x.change; a zero change stays zero where the slope is infinite
inline Dual continued(const Dual& x, double value, double slope) {
  return {value, x.change == 0 ? 0 : slope * x.change};
}

inline Dual sqrt(const Dual& x) {
  const double root = std::sqrt(x.value);
  return continued(x, root, 0.5 / root);
}
inline Dual cbrt(const Dual& x) {
  const double root = std::cbrt(x.value);
  return continued(x, root, 1 / (3 * root * root));
}
inline Dual exp(const Dual& x) {
  const double value = std::exp(x.value);
  return continued(x, value, value);
}
inline Dual log(const Dual& x) {
  return continued(x, std::log(x.value), 1 / x.value);
}
inline Dual log2(const Dual& x) {
  return continued(x, std::log2(x.value), 1 / (x.value * std::log(2.0)));
}
inline Dual log10(const Dual& x) {
  return continued(x, std::log10(x.value), 1 / (x.value * std::log(10.0)));
}
inline Dual sin(const Dual& x) {
  return continued(x, std::sin(x.value), std::cos(x.value));
}
inline Dual cos(const Dual& x) {
  return continued(x, std::cos(x.value), -std::sin(x.value));
}
inline Dual tan(const Dual& x) {
  const double value = std::tan(x.value);
  return continued(x, value, 1 + value * value);
}
inline Dual asin(const Dual& x) {
  return continued(x, std::asin(x.value), 1 / std::sqrt(1 - x.value * x.value));
}
inline Dual acos(const Dual& x) {
  return continued(x, std::acos(x.value), -1 / std::sqrt(1 - x.value * x.value));
}
inline Dual atan(const Dual& x) {
  return continued(x, std::atan(x.value), 1 / (1 + x.value * x.value));
}
inline Dual sinh(const Dual& x) {
  return continued(x, std::sinh(x.value), std::cosh(x.value));
}
inline Dual cosh(const Dual& x) {
  return continued(x, std::cosh(x.value), std::sinh(x.value));
}
inline Dual tanh(const Dual& x) {
  const double value = std::tanh(x.value);
  return continued(x, value, 1 - value * value);
}
inline Dual pow(const Dual& x, const Dual& y) {
  const double value = std::pow(x.value, y.value);
  double change = 0;
  if (x.change != 0) change += y.value * std::pow(x.value, y.value - 1) * x.change;
  if (y.change != 0) change += (x.value == 0 && y.value > 0 ? 0 : value * std::log(x.value)) * y.change;
  return {value, change};
}
inline Dual hypot(const Dual& x, const Dual& y) {
  const double value = std::hypot(x.value, y.value);
  return {value, value == 0 ? 0 : (x.value * x.change + y.value * y.change) / value};
}
inline Dual atan2(const Dual& y, const Dual& x) {
  const double squared = x.value * x.value + y.value * y.value;
  return {std::atan2(y.value, x.value), (x.value * y.change - y.value * x.change) / squared};
}
inline Dual abs(const Dual& x) {
  return x.value < 0 ? -x : x;
}

/// x^n by squaring; exact powers of two of x are the same as repeated multiplication.
template <class T>
T integer_power(T x, std::int32_t n) {
  const bool inverted = n < 0;
  auto left = inverted ? 0U - static_cast<std::uint32_t>(n) : static_cast<std::uint32_t>(n);
  T result = 1.0;
  bool started = false;
  for (T factor = x; left != 0; factor = factor * factor, left >>= 1U) {
    if ((left & 1U) == 0) continue;
    result = started ? result * factor : factor;
    started = true;
  }
  return inverted ? T(1.0) / result : result;
}

/// Operands that an operation does not have are read as the first one and thrown away by the compiler.
template <Operation operation>
constexpr bool has_second = (operation >= Operation::add) && (operation <= Operation::select);
template <Operation operation>
constexpr bool has_third = operation == Operation::select;

/// The operation's value; `exponent` is used by integer_power alone.
template <Operation operation, class T>
T value_of(const T& a, const T& b, const T& c, std::int32_t exponent) {
  using std::abs, std::sqrt, std::cbrt, std::exp, std::log, std::log2, std::log10, std::sin, std::cos, std::tan;
  using std::asin, std::acos, std::atan, std::sinh, std::cosh, std::tanh, std::pow, std::atan2, std::hypot;
  if constexpr (operation == Op::negate)
    return -a;
  else if constexpr (operation == Op::absolute)
    return abs(a);
  else if constexpr (operation == Op::sign) {
    const double x = number(a);
    return std::isnan(x) ? x : static_cast<double>((x > 0) - (x < 0));
  } else if constexpr (operation == Op::floor)
    return std::floor(number(a));
  else if constexpr (operation == Op::ceil)
    return std::ceil(number(a));
  else if constexpr (operation == Op::round)
    return std::round(number(a));
  else if constexpr (operation == Op::square_root)
    return sqrt(a);
  else if constexpr (operation == Op::cube_root)
    return cbrt(a);
  else if constexpr (operation == Op::exp)
    return exp(a);
  else if constexpr (operation == Op::log)
    return log(a);
  else if constexpr (operation == Op::log2)
    return log2(a);
  else if constexpr (operation == Op::log10)
    return log10(a);
  else if constexpr (operation == Op::sin)
    return sin(a);
  else if constexpr (operation == Op::cos)
    return cos(a);
  else if constexpr (operation == Op::tan)
    return tan(a);
  else if constexpr (operation == Op::asin)
    return asin(a);
  else if constexpr (operation == Op::acos)
    return acos(a);
  else if constexpr (operation == Op::atan)
    return atan(a);
  else if constexpr (operation == Op::sinh)
    return sinh(a);
  else if constexpr (operation == Op::cosh)
    return cosh(a);
  else if constexpr (operation == Op::tanh)
    return tanh(a);
  else if constexpr (operation == Op::add)
    return a + b;
  else if constexpr (operation == Op::subtract)
    return a - b;
  else if constexpr (operation == Op::multiply)
    return a * b;
  else if constexpr (operation == Op::divide)
    return a / b;
  else if constexpr (operation == Op::power)
    return pow(a, b);
  else if constexpr (operation == Op::atan2)
    return atan2(a, b);
  // A NaN operand makes the smaller and the larger NaN, so that it is seen.
  else if constexpr (operation == Op::minimum)
    return number(a) < number(b) || std::isnan(number(a)) ? a : b;
  else if constexpr (operation == Op::maximum)
    return number(a) > number(b) || std::isnan(number(a)) ? a : b;
  else if constexpr (operation == Op::hypot)
    return hypot(a, b);
  else if constexpr (operation == Op::less)
    return number(a) < number(b) ? 1.0 : 0.0;
  else if constexpr (operation == Op::less_equal)
    return number(a) <= number(b) ? 1.0 : 0.0;
  else if constexpr (operation == Op::equal)
    return number(a) == number(b) ? 1.0 : 0.0;
  else if constexpr (operation == Op::select)
    return number(a) != 0 ? b : c;
  else if constexpr (operation == Op::square)
    return a * a;
  else if constexpr (operation == Op::reciprocal)
    return T(1.0) / a;
  else if constexpr (operation == Op::integer_power)
    return rules::integer_power(a, exponent);
  else
    return a;
}

/// Adds what the operands' adjoints gain when the result `value` has the adjoint `w` (which is not zero).
template <Operation operation, class T>
void add_adjoints(const T& value, const T& w, const T& a, const T& b, std::int32_t exponent, T& wa, T& wb, T& wc) {
  using std::abs, std::sqrt, std::cbrt, std::exp, std::log, std::sin, std::cos, std::sinh, std::cosh, std::pow;
  const T one = 1.0;
  if constexpr (operation == Op::negate)
    wa += -w;
  else if constexpr (operation == Op::absolute) {
    if (number(a) > 0)
      wa += w;
    else if (number(a) < 0)
      wa += -w;
  } else if constexpr (operation == Op::square_root)
    wa += T(0.5) * w / value;
  else if constexpr (operation == Op::cube_root)
    wa += w / (T(3.0) * value * value);
  else if constexpr (operation == Op::exp)
    wa += w * value;
  else if constexpr (operation == Op::log)
    wa += w / a;
  else if constexpr (operation == Op::log2)
    wa += w / (a * T(std::log(2.0)));
  else if constexpr (operation == Op::log10)
    wa += w / (a * T(std::log(10.0)));
  else if constexpr (operation == Op::sin)
    wa += w * cos(a);
  else if constexpr (operation == Op::cos)
    wa += -(w * sin(a));
  else if constexpr (operation == Op::tan)
    wa += w * (one + value * value);
  else if constexpr (operation == Op::asin)
    wa += w / sqrt(one - a * a);
  else if constexpr (operation == Op::acos)
    wa += -(w / sqrt(one - a * a));
  else if constexpr (operation == Op::atan)
    wa += w / (one + a * a);
  else if constexpr (operation == Op::sinh)
    wa += w * cosh(a);
  else if constexpr (operation == Op::cosh)
    wa += w * sinh(a);
  else if constexpr (operation == Op::tanh)
    wa += w * (one - value * value);
  else if constexpr (operation == Op::add) {
    wa += w;
    wb += w;
  } else if constexpr (operation == Op::subtract) {
    wa += w;
    wb += -w;
  } else if constexpr (operation == Op::multiply) {
    wa += w * b;
    wb += w * a;
  } else if constexpr (operation == Op::divide) {
    const T shared = w / b;
    wa += shared;
    wb += -(shared * value);
  } else if constexpr (operation == Op::power) {
    wa += w * b * pow(a, b - one);
    // At x = 0 with a positive exponent the slope along the exponent is the limit, zero.
    if (!(number(a) == 0 && number(b) > 0)) wb += w * value * log(a);
  } else if constexpr (operation == Op::atan2) {
    const T squared = a * a + b * b;
    wa += w * b / squared;
    wb += -(w * a / squared);
  } else if constexpr (operation == Op::minimum || operation == Op::maximum) {
    const bool first = operation == Op::minimum ? number(a) < number(b) : number(a) > number(b);
    (first || std::isnan(number(a)) ? wa : wb) += w;
  } else if constexpr (operation == Op::hypot) {
    if (number(value) != 0) {
      wa += w * a / value;
      wb += w * b / value;
    }
  } else if constexpr (operation == Op::select)
    (number(a) != 0 ? wb : wc) += w;
  else if constexpr (operation == Op::square)
    wa += (w + w) * a;
  else if constexpr (operation == Op::reciprocal)
    wa += -(w * value * value);
  else if constexpr (operation == Op::integer_power)
    wa += w * T(static_cast<double>(exponent)) * rules::integer_power(a, exponent - 1);
  // steps and comparisons are flat wherever they have a slope
}

/// Calls `visitor.template operator()<operation>()` for the operation met at run time.
template <class Visitor>
[[gnu::always_inline]] inline auto visit(Operation operation, Visitor&& visitor) {
  using enum Operation;
  switch (operation) {
  case constant: return visitor.template operator()<constant>();
  case variable: return visitor.template operator()<variable>();
  case negate: return visitor.template operator()<negate>();
  case absolute: return visitor.template operator()<absolute>();
  case sign: return visitor.template operator()<sign>();
  case floor: return visitor.template operator()<floor>();
  case ceil: return visitor.template operator()<ceil>();
  case round: return visitor.template operator()<round>();
  case square_root: return visitor.template operator()<square_root>();
  case cube_root: return visitor.template operator()<cube_root>();
  case exp: return visitor.template operator()<exp>();
  case log: return visitor.template operator()<log>();
  case log2: return visitor.template operator()<log2>();
  case log10: return visitor.template operator()<log10>();
  case sin: return visitor.template operator()<sin>();
  case cos: return visitor.template operator()<cos>();
  case tan: return visitor.template operator()<tan>();
  case asin: return visitor.template operator()<asin>();
  case acos: return visitor.template operator()<acos>();
  case atan: return visitor.template operator()<atan>();
  case sinh: return visitor.template operator()<sinh>();
  case cosh: return visitor.template operator()<cosh>();
  case tanh: return visitor.template operator()<tanh>();
  case add: return visitor.template operator()<add>();
  case subtract: return visitor.template operator()<subtract>();
  case multiply: return visitor.template operator()<multiply>();
  case divide: return visitor.template operator()<divide>();
  case power: return visitor.template operator()<power>();
  case atan2: return visitor.template operator()<atan2>();
  case minimum: return visitor.template operator()<minimum>();
  case maximum: return visitor.template operator()<maximum>();
  case hypot: return visitor.template operator()<hypot>();
  case less: return visitor.template operator()<less>();
  case less_equal: return visitor.template operator()<less_equal>();
  case equal: return visitor.template operator()<equal>();
  case select: return visitor.template operator()<select>();
  case square: return visitor.template operator()<square>();
  case reciprocal: return visitor.template operator()<reciprocal>();
  case integer_power: return visitor.template operator()<integer_power>();
  }
  __builtin_unreachable();
}

} // namespace tanzen::rules
