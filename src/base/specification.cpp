#include "tanzen/base/specification.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// The options of a text, cut at the commas outside parentheses.
std::vector<std::string> pieces_of(std::string_view text) {
  std::vector<std::string> pieces(1);
  int depth = 0;
  for (const char c : text) {
    depth += c == '(' ? 1 : c == ')' ? -1 : 0;
    if (c == ',' && depth == 0)
      pieces.emplace_back();
    else
      pieces.back() += c;
  }
  return pieces;
}

/// A value without the parentheses that hold it together.
std::string_view bared(std::string_view value) {
  return value.starts_with('(') && value.ends_with(')') ? trimmed(value.substr(1, value.size() - 2)) : value;
}

} // namespace

Specification Specification::parse(std::string_view text) {
  Specification parsed;
  const std::size_t colon = text.find(':');
  parsed.name = std::string(trimmed(text.substr(0, colon)));
  if (parsed.name.empty()) {
    throw InputError(fmt::format("'{}' has no name; write name or name:option=value,option=value", clipped(text)));
  }
  if (colon == std::string_view::npos) return parsed;
  for (const std::string& piece : pieces_of(text.substr(colon + 1))) {
    const std::size_t equals = piece.find('=');
    if (equals == std::string::npos || equals == 0) {
      throw InputError(
          fmt::format("in '{}' the option '{}' has no value; write option=value", clipped(text), clipped(piece, 40)));
    }
    std::string key(trimmed(std::string_view(piece).substr(0, equals)));
    std::string value(bared(trimmed(std::string_view(piece).substr(equals + 1))));
    const bool is_repeated =
        std::ranges::any_of(parsed.options, [&](const auto& option) { return option.first == key; });
    if (is_repeated) throw InputError(fmt::format("in '{}' the option '{}' is given twice", clipped(text), key));
    parsed.options.emplace_back(std::move(key), std::move(value));
  }
  return parsed;
}

} // namespace tanzen
