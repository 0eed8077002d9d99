#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

// The reader asserts what a file says before it refuses it; what a user wrote is no bug.
#define TOML_ASSERT(expression) static_cast<void>(0)
#include <toml++/toml.h>

/// What all files in TOML share: reading with messages that name the line, and writing what reads back.
namespace tanzen::files {

/// Parses a whole file; `kind` is what it should be, as in `problem file`. Throws InputError with line and column.
[[nodiscard]] toml::table parse_toml(std::string_view text, std::string_view kind);

/// Throws InputError with the line of `at`.
[[noreturn]] void fail(const toml::node& at, const std::string& what);

/// Throws InputError for a key that is not known, with the nearest one.
void check_keys(const toml::table& table, std::string_view owner, const std::vector<std::string>& known);

// Each throws InputError, with the line and what is wrong, where the node is something else.
[[nodiscard]] std::string text_in(const toml::node& node, std::string_view what);
/// A text of one line without control characters.
[[nodiscard]] std::string line_in(const toml::node& node, std::string_view what);
[[nodiscard]] double number_in(const toml::node& node, std::string_view what);
/// A number alone counts as a list of one.
[[nodiscard]] std::vector<double> numbers_in(const toml::node& node, std::string_view what);
/// The largest whole number that every double up to it has exactly.
constexpr std::int64_t largest_count = std::int64_t{1} << 53U;
/// A whole number from `least` to `most`.
[[nodiscard]] std::int64_t count_in(const toml::node& node, std::string_view what, std::int64_t least,
                                    std::int64_t most = largest_count);
[[nodiscard]] const toml::table& table_in(const toml::node& node, std::string_view what);

/// The entries in the order of the file; TOML tables keep none. Throws InputError, with the line, for a name that is
/// not one line of plain characters.
[[nodiscard]] std::vector<std::pair<std::string, const toml::node*>> in_order(const toml::table& table);

/// A basic TOML string.
[[nodiscard]] std::string quoted_text(std::string_view text);
/// A key that TOML reads bare, or in quotes.
[[nodiscard]] std::string key_text(const std::string& key);
/// One number as it is, several as a list.
[[nodiscard]] std::string number_list(std::span<const double> numbers);

} // namespace tanzen::files
