#include "tanzen/files/csv_cell.hpp"

#include "tanzen/base/text.hpp"

#include <cmath>

namespace tanzen {

std::string csv_cell(std::string_view text) {
  // What begins so is a formula to programs of tables, which compute it.
  const bool is_formula = !text.empty() && std::string_view("=+-@\t\r").find(text.front()) != std::string_view::npos;
  if (!is_formula && text.find_first_of(",\"\n\r") == std::string_view::npos) return std::string(text);
  std::string quoted(1, '"');
  if (is_formula) quoted += '\'';
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
