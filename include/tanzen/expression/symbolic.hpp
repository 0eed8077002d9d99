#pragma once

#include "tanzen/expression/expression.hpp"

#include <cstddef>
#include <string>

namespace tanzen {

/// An expression as a formula that parses back to the same expression, with as few parentheses as that needs. Shared
/// parts are written out where they are used: throws InputError where the text would pass `longest` characters.
[[nodiscard]] std::string to_formula(const Expression& expression, std::size_t longest = 1'000'000);

/// The partial derivative by one variable (counted from zero), as an expression, simplified. Where the function has a
/// kink the derivative is that of one side. Cost: linear in the size of the expression.
[[nodiscard]] Expression partial_derivative(const Expression& expression, Index variable);

/// The same function written shorter: products with zero vanish, constants gather, a sum of equals is a multiple. May
/// have a value where the original has none (0 * log(x) at x < 0), so it is for reading, not for computing.
[[nodiscard]] Expression simplified(const Expression& expression);

} // namespace tanzen
