#include "toml_text.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/readable.hpp"
#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen::files {
namespace {

bool is_ascii(char c) {
  return static_cast<unsigned char>(c) < 0x80;
}
bool goes_on_a_character(char c) {
  return (static_cast<unsigned char>(c) & 0xC0U) == 0x80;
}

/// A byte beyond ASCII as `~` and two digits, `~` itself twice: what TOML allows in quotes and comments alone.
std::string in_ascii(char c) {
  if (!is_ascii(c)) return fmt::format("~{:02x}", static_cast<unsigned char>(c));
  return c == '~' ? "~~" : std::string(1, c);
}

std::string in_ascii(std::string_view text) {
  std::string result;
  for (const char c : text) result += in_ascii(c);
  return result;
}

/// What is wrong with `text`, told of its form in ASCII, at its place in the text itself.
InputError error_in_ascii(std::string_view text, const toml::parse_error& error) {
  const auto place = error.source().begin;
  for (auto line = place.line; line > 1; --line) text.remove_prefix(text.find('\n') + 1);
  std::size_t at = 0;
  for (std::size_t next = 1; at < text.size(); ++at) {
    next += in_ascii(text[at]).size();
    if (next > place.column) break;
  }
  const auto column =
      1 + at - static_cast<std::size_t>(std::ranges::count_if(text.substr(0, at + 1), goes_on_a_character));
  const bool is_plain = at == text.size() || is_ascii(text[at]);
  return InputError(fmt::format("line {}, column {}: {}", place.line, column,
                                is_plain ? std::string(error.description())
                                         : fmt::format("outside quotes a file is plain ASCII; found the byte 0x{:02x}",
                                                       static_cast<unsigned char>(text[at]))));
}

/// The TOML reader is undefined for some characters beyond ASCII outside quotes and comments, and where it gives up on
/// a value it reads over quotes; so it meets such characters only in a text whose form in ASCII it accepts.
void check_in_ascii(std::string_view text) {
  if (std::ranges::all_of(text, is_ascii)) return;
  try {
    static_cast<void>(toml::parse(in_ascii(text)));
  } catch (const toml::parse_error& error) {
    throw error_in_ascii(text, error);
  }
}

} // namespace

/// Throws for a name of too many parts, as in [a.a.a]: what reads it, and what throws it away, goes as deep as it does.
void check_depth(std::string_view text) {
  constexpr std::ptrdiff_t most = 100;
  std::size_t number = 0;
  while (!text.empty()) {
    ++number;
    const std::size_t end = std::min(text.find('\n'), text.size());
    const std::string_view line = text.substr(0, end), name = line.substr(0, line.find('='));
    if (name.find_first_of("\"'") == std::string_view::npos && std::ranges::count(name, '.') > most)
      throw InputError(fmt::format("line {}: a name has more than {} parts", number, most));
    text.remove_prefix(std::min(end + 1, text.size()));
  }
}

toml::table parse_toml(std::string_view text, std::string_view kind) {
  constexpr std::size_t longest = std::size_t{8} << 20U;
  if (text.size() > longest)
    throw InputError(fmt::format("the {} has {} bytes; the most is {}", kind, text.size(), longest));
  if (trimmed(text).empty()) throw InputError(fmt::format("the {} is empty", kind));
  check_in_ascii(text);
  check_depth(text);
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

std::string line_in(const toml::node& node, std::string_view what) {
  std::string text = text_in(node, what);
  try {
    check_readable(text, what);
  } catch (const InputError& error) {
    fail(node, error.what());
  }
  return text;
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

std::int64_t count_in(const toml::node& node, std::string_view what, std::int64_t least, std::int64_t most) {
  const double number = number_in(node, what);
  if (number < static_cast<double>(least) || number != std::round(number) || number > static_cast<double>(most))
    fail(node, fmt::format("{} must be a whole number {}; found {}", what,
                           most == largest_count ? fmt::format("of at least {}", least)
                                                 : fmt::format("from {} to {}", least, most),
                           number_text(number)));
  return static_cast<std::int64_t>(number);
}

const toml::table& table_in(const toml::node& node, std::string_view what) {
  const auto* table = node.as_table();
  if (table == nullptr) fail(node, fmt::format("{} must be a table", what));
  return *table;
}

std::vector<std::pair<std::string, const toml::node*>> in_order(const toml::table& table) {
  std::vector<std::pair<std::string, const toml::node*>> entries;
  for (const auto& [key, node] : table) {
    try {
      check_readable(key.str(), "the name");
    } catch (const InputError& error) {
      fail(node, error.what());
    }
    entries.emplace_back(std::string(key.str()), &node);
  }
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
    if (static_cast<unsigned char>(c) < 0x20 || c == 0x7f)
      result += fmt::format("\\u{:04x}", static_cast<unsigned>(c));
    else
      result += c;
  }
  return result + "\"";
}

std::string key_text(const std::string& key) {
  const bool is_bare = !key.empty() && std::ranges::all_of(key, [](char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '-' || c == '_';
  });
  return is_bare ? key : quoted_text(key);
}

std::string number_list(std::span<const double> numbers) {
  std::vector<std::string> texts;
  for (const double number : numbers) texts.push_back(number_text(number));
  return texts.size() == 1 ? texts.front() : fmt::format("[{}]", joined(texts, ", "));
}

} // namespace tanzen::files
