#pragma once

#include "tanzen/methods/line/line_search.hpp"

namespace tanzen::methods {

// The rules that line searches go by, each in a file of its own.
[[nodiscard]] std::unique_ptr<LineSearch> wolfe_search(const LineSettings& settings);
[[nodiscard]] std::unique_ptr<LineSearch> more_thuente_search(const LineSettings& settings);
[[nodiscard]] std::unique_ptr<LineSearch> hager_zhang_search(const LineSettings& settings);
[[nodiscard]] std::unique_ptr<LineSearch> exact_search();

} // namespace tanzen::methods
