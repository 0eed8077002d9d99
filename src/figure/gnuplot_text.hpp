#pragma once

#include <string>
#include <string_view>

namespace tanzen {

/// Text in double quotes, where gnuplot reads escapes and, even there, what stands in backquotes: only characters that
/// mean nothing to it stay as they are, and line breaks and the like become blanks. (In single quotes two quotes side
/// by side end the text.)
[[nodiscard]] std::string in_quotes(std::string_view text);

/// A text at a tic, which gnuplot takes for a form of numbers.
[[nodiscard]] std::string tic_in_quotes(std::string_view text);

} // namespace tanzen
