#pragma once

#include "tanzen/numeric/constants.hpp"
#include "tanzen/numeric/vector.hpp"

#include <cmath>
#include <limits>
#include <nlohmann/json.hpp>
#include <string>
#include <string_view>

namespace tanzen {
using Json = nlohmann::ordered_json;
}

/// Numbers that JSON has no form for: NaN is null, the infinities are words.
namespace tanzen::files {

/// One line; what is no UTF-8 is replaced.
[[nodiscard]] std::string json_text(const Json& json);
/// Discarded where the text is none.
[[nodiscard]] Json json_in(std::string_view text);

inline Json to_json(double value) {
  if (std::isnan(value)) return nullptr;
  if (std::isinf(value)) return value > 0 ? "inf" : "-inf";
  return value;
}

inline double number_from_json(const Json& json) {
  if (json.is_null()) return std::numeric_limits<double>::quiet_NaN();
  if (json.is_string()) return json.get<std::string>() == "-inf" ? -infinity : infinity;
  return json.get<double>();
}

inline Json to_json(const Vector& vector) {
  Json list = Json::array();
  for (const double value : vector) list.push_back(to_json(value));
  return list;
}

inline Vector vector_from_json(const Json& json) {
  Vector vector(static_cast<Index>(json.size()));
  for (Index i = 0; i < vector.size(); ++i) vector[i] = number_from_json(json[static_cast<std::size_t>(i)]);
  return vector;
}

} // namespace tanzen::files
