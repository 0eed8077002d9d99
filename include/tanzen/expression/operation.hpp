#pragma once

#include <cstdint>
#include <string_view>

namespace tanzen {

/// What a node of an expression or an instruction of a tape computes.
enum class Operation : std::uint8_t {
  constant,
  variable,
  // one operand
  negate,
  absolute,
  sign,
  floor,
  ceil,
  round,
  square_root,
  cube_root,
  exp,
  log,
  log2,
  log10,
  sin,
  cos,
  tan,
  asin,
  acos,
  atan,
  sinh,
  cosh,
  tanh,
  // two operands
  add,
  subtract,
  multiply,
  divide,
  power,
  atan2,
  minimum,
  maximum,
  hypot,
  // comparisons: 1 where they hold, 0 where not, also for NaN
  less,
  less_equal,
  equal,
  // condition, value where it holds, value where not
  select,
  // only on tapes: powers with a fixed exponent
  square,
  reciprocal,
  integer_power,
};

/// How many operands an operation takes: 0 to 3.
[[nodiscard]] int operand_count(Operation operation);

/// Functions of formulas, by name; operators have none (an empty name).
[[nodiscard]] std::string_view function_name(Operation operation);

} // namespace tanzen
