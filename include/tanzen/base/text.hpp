#pragma once

#include <cstddef>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// The shortest decimal text that reads back to the same double; `nan`, `inf`, `-inf` for the others.
[[nodiscard]] std::string number_text(double value);

/// A number for a person to read: `digits` significant digits, exponent form where it is shorter.
[[nodiscard]] std::string short_number(double value, int digits = 4);

/// The same of a bound, which must be true of the number that is read: never below `value`, or never above it. At most
/// 15 digits.
[[nodiscard]] std::string number_at_least(double value, int digits = 4);
[[nodiscard]] std::string number_at_most(double value, int digits = 4);

/// Reads a whole text as one double (`2`, `-1e-3`, `inf`); empty where anything is left over.
[[nodiscard]] std::optional<double> read_number(std::string_view text);

/// The text without the white space at its ends.
[[nodiscard]] std::string_view trimmed(std::string_view text);

/// The pieces between separators, trimmed; a text without one is one piece.
[[nodiscard]] std::vector<std::string> split(std::string_view text, char separator);

/// The pieces with a separator between each two: `joined({"a", "b"}, ", ")` is `a, b`.
[[nodiscard]] std::string joined(std::span<const std::string> pieces, std::string_view separator);

/// The name of the list that a misspelt word was probably meant to be, by edit distance with
/// transpositions (Damerau, 1964); none where nothing is near. Cost: the product of the lengths for each name.
[[nodiscard]] std::optional<std::string> nearest_name(std::string_view word, std::span<const std::string> names);

/// `; did you mean 'x'?` where a near name exists, otherwise nothing: the end of a message.
[[nodiscard]] std::string did_you_mean(std::string_view word, std::span<const std::string> names);

/// The first characters of a long text with an ellipsis, for messages; a short one as it is. Never cuts
/// through a UTF-8 character.
[[nodiscard]] std::string clipped(std::string_view text, std::size_t longest = 60);

/// How many characters a UTF-8 text has; a byte that starts no valid character counts as one.
[[nodiscard]] std::size_t character_count(std::string_view text);

/// A text cut at blanks into lines of at most so many characters; a word that is longer has a line of its own.
[[nodiscard]] std::vector<std::string> wrapped(std::string_view text, std::size_t width);

/// `1 iteration`, `2 iterations`.
[[nodiscard]] std::string counted(long long count, std::string_view singular);

/// One labelled line of a block of them: `  label         text`, with its end.
[[nodiscard]] std::string block_line(std::string_view label, std::string_view text);

/// Orders names as people do: digits inside compare as numbers, so `x2` comes before `x10`.
[[nodiscard]] bool natural_less(std::string_view left, std::string_view right);

} // namespace tanzen
