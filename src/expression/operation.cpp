#include "tanzen/expression/operation.hpp"

namespace tanzen {

int operand_count(Operation operation) {
  using enum Operation;
  if (operation <= variable) return 0;
  if (operation <= tanh) return 1;
  if (operation <= equal) return 2;
  if (operation == select) return 3;
  return 1;
}

std::string_view function_name(Operation operation) {
  switch (operation) {
  case Operation::absolute: return "abs";
  case Operation::sign: return "sign";
  case Operation::floor: return "floor";
  case Operation::ceil: return "ceil";
  case Operation::round: return "round";
  case Operation::square_root: return "sqrt";
  case Operation::cube_root: return "cbrt";
  case Operation::exp: return "exp";
  case Operation::log: return "log";
  case Operation::log2: return "log2";
  case Operation::log10: return "log10";
  case Operation::sin: return "sin";
  case Operation::cos: return "cos";
  case Operation::tan: return "tan";
  case Operation::asin: return "asin";
  case Operation::acos: return "acos";
  case Operation::atan: return "atan";
  case Operation::sinh: return "sinh";
  case Operation::cosh: return "cosh";
  case Operation::tanh: return "tanh";
  case Operation::atan2: return "atan2";
  case Operation::minimum: return "min";
  case Operation::maximum: return "max";
  case Operation::hypot: return "hypot";
  default: return {};
  }
}

} // namespace tanzen
