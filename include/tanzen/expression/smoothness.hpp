#pragma once

#include "tanzen/expression/expression.hpp"

namespace tanzen {

/// Whether an expression has all its derivatives wherever it has a value, as far as its form shows: it is made of sums,
/// products, quotients, whole powers, exponentials, logarithms, sines and the like. What has steps or kinks (`abs`,
/// `min`, `floor`, conditions), or may have one where its operand vanishes (roots, other powers, `hypot`), is not.
/// Cost: the size of the graph.
[[nodiscard]] bool is_smooth(const Expression& expression);

} // namespace tanzen
