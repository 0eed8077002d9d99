#include "formula_syntax.hpp"

#include <numbers>

namespace tanzen::detail {

std::optional<Operation> find_function(std::string_view name) {
  for (auto k = static_cast<int>(Operation::absolute); k <= static_cast<int>(Operation::hypot); ++k) {
    const auto operation = static_cast<Operation>(k);
    if (!function_name(operation).empty() && function_name(operation) == name) return operation;
  }
  return std::nullopt;
}

const std::vector<std::string>& callable_names() {
  static const std::vector<std::string> names = [] {
    std::vector<std::string> all{"if", "sum", "product"};
    for (auto k = static_cast<int>(Operation::absolute); k <= static_cast<int>(Operation::hypot); ++k) {
      const auto name = function_name(static_cast<Operation>(k));
      if (!name.empty()) all.emplace_back(name);
    }
    return all;
  }();
  return names;
}

std::optional<double> find_constant(std::string_view name) {
  if (name == "pi") return std::numbers::pi;
  if (name == "e") return std::numbers::e;
  return std::nullopt;
}

bool starts_name(char c) {
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_';
}

bool continues_name(char c) {
  return starts_name(c) || (c >= '0' && c <= '9');
}

} // namespace tanzen::detail
