#pragma once

#include "tanzen/problem/problem.hpp"

namespace tanzen {

/// Whether the problem's one value has all its derivatives wherever there is one, as its expression shows; false of
/// what is only called, or made of residuals in a table.
[[nodiscard]] bool is_smooth(const Problem& problem);

} // namespace tanzen
