#include "scale.hpp"

#include "tanzen/base/text.hpp"

#include <cmath>
#include <fmt/format.h>

namespace tanzen {

std::vector<std::string> level_names(const std::vector<double>& levels) {
  std::vector<std::string> names;
  for (const double level : levels) {
    const bool is_large = std::abs(level) >= 1000 && std::abs(level) < 1e5;
    names.push_back(is_large ? fmt::format("{:.0f}", level) : short_number(level, 3));
  }
  return names;
}

} // namespace tanzen
