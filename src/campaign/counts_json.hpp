#pragma once

#include "tanzen/search/evaluator.hpp"

#include <nlohmann/json.hpp>

namespace tanzen {

/// Counts as a list of three, where many of them are kept.
template <class Json>
void to_json(Json& json, const Counts& counts) {
  json = {counts.evaluations, counts.gradients, counts.hessians};
}

template <class Json>
void from_json(const Json& json, Counts& counts) {
  counts = {json.at(0), json.at(1), json.at(2)};
}

} // namespace tanzen
