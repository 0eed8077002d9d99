#pragma once

#include <string>
#include <vector>

namespace tanzen {

/// The levels of a field as they are named beside it: with the digits that tell them apart, and no exponent where five
/// digits do.
[[nodiscard]] std::vector<std::string> level_names(const std::vector<double>& levels);

} // namespace tanzen
