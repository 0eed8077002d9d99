#include "toml_text.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen::files {
namespace {

/// The end of the string or comment that begins at `begin`; `begin` itself where neither begins there. A quote within
/// a word begins none.
std::size_t end_of_free_text(std::string_view text, std::size_t begin) {
  if (text[begin] == '#') return std::min(text.find('\n', begin), text.size());
  const bool in_word = begin > 0 && std::string_view(" \t\r\n=[{,").find(text[begin - 1]) == std::string_view::npos;
  if ((text[begin] != '"' && text[begin] != '\'') || in_word) return begin;
  const bool is_long = text.substr(begin, 3) == std::string(3, text[begin]);
  const std::string quote(is_long ? 3 : 1, text[begin]);
  for (std::size_t i = begin + quote.size(); i < text.size(); ++i) {
    if (text[i] == '\\' && quote[0] == '"')
      ++i;
    else if (text.substr(i, quote.size()) == quote)
      return i + quote.size();
    else if (text[i] == '\n' && !is_long)
      return i;
  }
  return text.size();
}

/// Outside strings and comments a file is plain ASCII; the TOML reader is undefined for some other characters.
void check_is_plain(std::string_view text) {
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (const std::size_t end = end_of_free_text(text, i); end != i) {
      i = end - 1;
      continue;
    }
    const auto byte = static_cast<unsigned char>(text[i]);
    if ((byte >= 0x20 && byte < 0x7f) || byte == '\t' || byte == '\n' || byte == '\r') continue;
    const auto before = text.substr(0, i);
    throw InputError(fmt::format("line {}, column {}: outside quotes a file is plain ASCII; found the byte 0x{:02x}",
                                 std::ranges::count(before, '\n') + 1, i - (before.rfind('\n') + 1) + 1, byte));
  }
}

} // namespace

toml::table parse_toml(std::string_view text, std::string_view kind) {
  constexpr std::size_t longest = std::size_t{8} << 20U;
  if (text.size() > longest)
    throw InputError(fmt::format("the {} has {} bytes; the most is {}", kind, text.size(), longest));
  if (trimmed(text).empty()) throw InputError(fmt::format("the {} is empty", kind));
  check_is_plain(text);
  try {
    return toml::parse(text);
  } catch (const toml::parse_error& error) {
    throw InputError(fmt::format("line {}, column {}: {}", error.source().begin.line, error.source().begin.column,
                                 error.description()));
  }
}

void fail(const toml::node& at, const std::string& what) {
  throw InputError(fmt::format("line {}: {}", at.source().begin.line, what));
}

void check_keys(const toml::table& table, std::string_view owner, const std::vector<std::string>& known) {
  for (const auto& [key, node] : table) {
    const std::string name(key.str());
    if (std::ranges::find(known, name) != known.end()) continue;
    fail(node, fmt::format("{} has no '{}' (it may have {}){}", owner, clipped(name, 40), joined(known, ", "),
                           did_you_mean(name, known)));
  }
}

std::string text_in(const toml::node& node, std::string_view what) {
  const auto text = node.value<std::string>();
  if (!node.is_string() || !text) fail(node, fmt::format("{} must be a text in quotes", what));
  return *text;
}

double number_in(const toml::node& node, std::string_view what) {
  const auto number = node.value<double>();
  if (!node.is_number() || !number || std::isnan(*number)) fail(node, fmt::format("{} must be a number", what));
  return *number;
}

std::vector<double> numbers_in(const toml::node& node, std::string_view what) {
  if (node.is_number()) return {number_in(node, what)};
  const auto* array = node.as_array();
  if (array == nullptr || array->empty()) fail(node, fmt::format("{} must be a number or a list of numbers", what));
  std::vector<double> numbers;
  for (const auto& element : *array) numbers.push_back(number_in(element, what));
  return numbers;
}

std::int64_t count_in(const toml::node& node, std::string_view what, std::int64_t least) {
  const double number = number_in(node, what);
  if (number < static_cast<double>(least) || number != std::round(number) || number > 0x1.0p53)
    fail(node, fmt::format("{} must be a whole number of at least {}", what, least));
  return static_cast<std::int64_t>(number);
}

const toml::table& table_in(const toml::node& node, std::string_view what) {
  const auto* table = node.as_table();
  if (table == nullptr) fail(node, fmt::format("{} must be a table", what));
  return *table;
}

std::vector<std::pair<std::string, const toml::node*>> in_order(const toml::table& table) {
  std::vector<std::pair<std::string, const toml::node*>> entries;
  for (const auto& [key, node] : table) entries.emplace_back(std::string(key.str()), &node);
  std::ranges::stable_sort(entries, [](const auto& a, const auto& b) {
    const auto &x = a.second->source().begin, &y = b.second->source().begin;
    return x.line != y.line ? x.line < y.line : x.column < y.column;
  });
  return entries;
}

/// A basic TOML string.
std::string quoted_text(std::string_view text) {
  std::string result = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\') result += '\\';
    if (static_cast<unsigned char>(c) < 0x20)
      result += fmt::format("\\u{:04x}", static_cast<unsigned>(c));
    else
      result += c;
  }
  return result + "\"";
}

std::string number_list(std::span<const double> numbers) {
  std::vector<std::string> texts;
  for (const double number : numbers) texts.push_back(number_text(number));
  return texts.size() == 1 ? texts.front() : fmt::format("[{}]", joined(texts, ", "));
}

} // namespace tanzen::files
