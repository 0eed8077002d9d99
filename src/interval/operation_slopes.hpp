#pragma once

#include "tanzen/expression/operation.hpp"
#include "tanzen/interval/enclosure.hpp"

#include <cstdint>

namespace tanzen {

/// First and second derivatives of an operation by its operands.
struct Slopes {
  Enclosure by_a = 0, by_b = 0;
  Enclosure by_aa = 0, by_ab = 0, by_bb = 0;
};

/// Over operands `a` and `b`, where its values are `value`; `exponent` is that of an integer power.
[[nodiscard]] Slopes slopes_of(Operation operation, std::int32_t exponent, const Enclosure& a, const Enclosure& b,
                               const Enclosure& value);

} // namespace tanzen
