#include "tanzen/files/csv_cell.hpp"

#include "tanzen/base/text.hpp"

#include <cmath>

namespace tanzen {

std::string csv_cell(std::string_view text) {
  if (text.find_first_of(",\"\n\r") == std::string_view::npos) return std::string(text);
  std::string quoted(1, '"');
  for (const char c : text) {
    if (c == '"') quoted += '"';
    quoted += c;
  }
  quoted += '"';
  return quoted;
}

std::string csv_cell(double number) {
  return std::isnan(number) ? "" : number_text(number);
}

} // namespace tanzen
