#pragma once

#include "tanzen/expression/operation.hpp"
#include "tanzen/interval/enclosure.hpp"

#include <cstdint>

namespace tanzen {

/// Derivatives of an operation by its operands.
struct Slopes {
  Enclosure by_a = 0, by_b = 0;
};
/// The second ones.
struct Bends {
  Enclosure by_aa = 0, by_ab = 0, by_bb = 0;
};

/// Over operands `a` and `b`, where its values are `value`; `exponent` is that of an integer power. Those by
/// an operand that is a number are not found where `moves_b` says that the second one is.
[[nodiscard]] Slopes slopes_of(Operation operation, std::int32_t exponent, const Enclosure& a, const Enclosure& b,
                               const Enclosure& value, bool moves_b);
[[nodiscard]] Bends bends_of(Operation operation, std::int32_t exponent, const Enclosure& a, const Enclosure& b,
                             const Enclosure& value, bool moves_b);

} // namespace tanzen
