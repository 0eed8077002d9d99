#pragma once

#include <string>
#include <string_view>

/// Texts that come from outside and are shown to people, or quoted for other programs.
namespace tanzen {

/// Throws InputError unless `name` is one line of valid UTF-8 without control characters (line breaks, tabulators,
/// escapes, marks that turn the direction of writing); `what` is what it names, as in `the label of a method`.
void check_readable(std::string_view name, std::string_view what);

/// The text with every control character but line breaks and tabulators, and every byte that is no UTF-8, spelt out:
/// an escape as `\u{1b}`, a stray byte as `\x{ff}`. What a terminal would obey is shown instead.
[[nodiscard]] std::string readable(std::string_view text);

/// The same in one line: line breaks and tabulators are spelt out too.
[[nodiscard]] std::string readable_line(std::string_view text);

} // namespace tanzen
