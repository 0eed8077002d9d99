#include "gnuplot_text.hpp"

#include <fmt/format.h>

namespace tanzen {

std::string in_quotes(std::string_view text) {
  std::string result = "\"";
  for (const char c : text) {
    const auto byte = static_cast<unsigned char>(c);
    if (byte < 0x20 || byte == 0x7F)
      result += ' ';
    else if (c == '"' || c == '\\' || c == '`' || c == '$' || c == '@')
      result += fmt::format("\\{:03o}", byte);
    else
      result += c;
  }
  return result + "\"";
}

std::string tic_in_quotes(std::string_view text) {
  std::string doubled;
  for (const char c : text) doubled += c == '%' ? "%%" : std::string(1, c);
  return in_quotes(doubled);
}

} // namespace tanzen
