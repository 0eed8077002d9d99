#include "tanzen/testbed/proved_values.hpp"

#include <algorithm>

namespace tanzen::testbed {
namespace {

constexpr ProvedValue rows[] = {
#include "proved_values.inc"
};

} // namespace

std::span<const ProvedValue> proved_values() {
  return rows;
}

const ProvedValue* proved_value(std::string_view problem) {
  const auto found = std::ranges::find(rows, problem, &ProvedValue::problem);
  return found == std::end(rows) ? nullptr : found;
}

} // namespace tanzen::testbed
