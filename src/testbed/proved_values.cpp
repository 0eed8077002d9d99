#include "tanzen/testbed/proved_values.hpp"

#include <algorithm>

namespace tanzen::testbed {
namespace {

constexpr ProvedValue table[] = {
#include "proved_values.inc"
};

} // namespace

std::span<const ProvedValue> proved_values() {
  return table;
}

const ProvedValue* proved_value(std::string_view problem) {
  const auto found = std::ranges::find(table, problem, &ProvedValue::problem);
  return found == std::end(table) ? nullptr : found;
}

} // namespace tanzen::testbed
