#pragma once

#include "tanzen/search/counts.hpp"

#include "tanzen/numeric/vector.hpp"

#include <nlohmann/json.hpp>
#include <string>

/// Parts of a record as JSON, for results files and messages between processes.
namespace tanzen {

using Json = nlohmann::ordered_json;

/// Counts are a list of numbers in the order of `all_spent`.
inline void to_json(Json& json, const Counts& counts) {
  json = counts.numbers();
}
inline void from_json(const Json& json, Counts& counts) {
  counts = Counts(json.get<Counts::Numbers>());
}

/// A front is a list of points.
[[nodiscard]] Json front_to_json(const Matrix& front);
/// Throws nlohmann's exceptions for what is no such list, and InputError for points of different length.
[[nodiscard]] Matrix front_from_json(const Json& json);

} // namespace tanzen
