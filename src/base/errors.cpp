#include "tanzen/base/errors.hpp"

#include "tanzen/base/text.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr std::size_t shown_before = 50;
constexpr std::size_t shown_after = 30;

bool continues_character(char byte) {
  return (static_cast<unsigned char>(byte) & 0xC0U) == 0x80U;
}

/// The line around the place, cut to a window, and below it a caret.
std::string pointed(std::string_view text, std::size_t offset) {
  offset = std::min(offset, text.size());
  const std::size_t line_start = offset == 0 ? 0 : text.rfind('\n', offset - 1) + 1;
  const std::size_t line_end = std::min(text.find('\n', offset), text.size());

  std::size_t first = offset - line_start > shown_before ? offset - shown_before : line_start;
  while (first > line_start && first < offset && continues_character(text[first])) ++first;
  std::size_t last = std::min(line_end, offset + shown_after);
  while (last < line_end && continues_character(text[last])) ++last;

  const std::string lead = first > line_start ? "..." : "";
  std::string shown = lead + std::string(text.substr(first, last - first)) + (last < line_end ? "..." : "");
  std::replace_if(
      shown.begin(), shown.end(), [](char c) { return c == '\t' || c == '\r'; }, ' ');
  const std::size_t indent = lead.size() + character_count(text.substr(first, offset - first));
  return fmt::format("  {}\n  {}^", shown, std::string(indent, ' '));
}

std::string place(std::string_view text, std::size_t offset) {
  offset = std::min(offset, text.size());
  const std::size_t line_start = offset == 0 ? 0 : text.rfind('\n', offset - 1) + 1;
  const auto line = 1 + std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(offset), '\n');
  const std::size_t column = 1 + character_count(text.substr(line_start, offset - line_start));
  return line > 1 ? fmt::format("line {}, column {}", line, column) : fmt::format("column {}", column);
}

} // namespace

TextError::TextError(std::string_view what, std::string_view text, std::size_t offset)
    : InputError(fmt::format("{}, at {}\n{}", what, place(text, offset), pointed(text, offset))), offset_(offset) {}

} // namespace tanzen
