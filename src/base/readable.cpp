#include "tanzen/base/readable.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <cstdint>
#include <fmt/format.h>
#include <optional>

namespace tanzen {
namespace {

/// A character of UTF-8 at the beginning of a text: its number and its bytes; a number of none for a stray byte.
struct Character {
  std::optional<std::uint32_t> number;
  std::size_t bytes = 1;
};

/// The first character (The Unicode Standard, 15.0, table 3-7: no overlong forms, no surrogates, at most U+10FFFF).
Character first_character(std::string_view text) {
  const auto byte = [&](std::size_t k) { return static_cast<unsigned char>(text[k]); };
  const unsigned lead = byte(0);
  if (lead < 0x80) return {lead, 1};
  const std::size_t bytes = lead >= 0xF0 ? 4 : lead >= 0xE0 ? 3 : 2;
  if (lead < 0xC2 || lead > 0xF4 || text.size() < bytes) return {};
  std::uint32_t number = lead & (0xFFU >> (bytes + 1));
  for (std::size_t k = 1; k < bytes; ++k) {
    if ((byte(k) & 0xC0U) != 0x80U) return {};
    number = number << 6U | (byte(k) & 0x3FU);
  }
  constexpr std::uint32_t least[] = {0, 0, 0x80, 0x800, 0x10000};
  if (number < least[bytes] || number > 0x10FFFF || (number >= 0xD800 && number <= 0xDFFF)) return {};
  return {number, bytes};
}

/// Control characters (C0, DELETE, C1), separators of lines and paragraphs, and marks that turn the direction of
/// writing.
bool is_control(std::uint32_t number) {
  const auto within = [&](std::uint32_t low, std::uint32_t high) { return low <= number && number <= high; };
  return number < 0x20 || within(0x7F, 0x9F) || within(0x2028, 0x202E) || within(0x2066, 0x2069);
}

std::string spelt_out(std::string_view text, bool keeps_layout) {
  std::string result;
  while (!text.empty()) {
    const Character character = first_character(text);
    const bool is_layout = keeps_layout && (text.front() == '\n' || text.front() == '\t');
    if (!character.number)
      result += fmt::format("\\x{{{:02x}}}", static_cast<unsigned char>(text.front()));
    else if (is_control(*character.number) && !is_layout)
      result += fmt::format("\\u{{{:x}}}", *character.number);
    else
      result += text.substr(0, character.bytes);
    text.remove_prefix(character.bytes);
  }
  return result;
}

} // namespace

void check_readable(std::string_view name, std::string_view what) {
  for (std::string_view rest = name; !rest.empty();) {
    const Character character = first_character(rest);
    if (!character.number)
      throw InputError(fmt::format("{} '{}' is not UTF-8: its byte {} is 0x{:02x}", what,
                                   clipped(readable_line(name), 60), name.size() - rest.size() + 1,
                                   static_cast<unsigned char>(rest.front())));
    if (is_control(*character.number))
      throw InputError(fmt::format("{} '{}' holds the control character U+{:04X}; a name is one line of plain "
                                   "characters",
                                   what, clipped(readable_line(name), 60), *character.number));
    rest.remove_prefix(character.bytes);
  }
}

std::string readable(std::string_view text) {
  return spelt_out(text, true);
}

std::string readable_line(std::string_view text) {
  return spelt_out(text, false);
}

} // namespace tanzen
