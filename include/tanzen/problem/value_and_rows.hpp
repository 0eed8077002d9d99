#pragma once

#include "tanzen/problem/problem.hpp"

#include <optional>

namespace tanzen {

/// What a problem of one value computes, as expressions: its value, of a fit the sum of its losses, and after it the
/// rows of its constraints. Nothing where one of them is no expression. Cost: at most a copy of the graphs.
[[nodiscard]] std::optional<Expressions> value_and_rows(const Problem& problem);

} // namespace tanzen
