#pragma once

#include "tanzen/base/specification.hpp"
#include "tanzen/files/plan_file.hpp"
#include "tanzen/problem/problem.hpp"

#include <string>
#include <string_view>
#include <vector>

/// What the names of a plan's problems say.
namespace tanzen {

[[nodiscard]] bool is_problem_file(std::string_view name);

/// A name with one more option.
[[nodiscard]] std::string with_option(const std::string& specification, std::string_view name,
                                      const std::string& value);

/// Whether a specification puts noise on the values, and the same function without it.
[[nodiscard]] bool has_noise(const Specification& specification);
[[nodiscard]] std::string without_noise(const Specification& specification);

/// A problem as text, as far as it can be had: an opaque objective has none.
[[nodiscard]] std::string definition_text(const Problem& problem);

/// What the plan's problems come to with its families, instances and noise levels.
[[nodiscard]] std::vector<std::string> spelled_out(const PlanDefinition& plan);

/// The traits of a test function as its options leave them; none of what is no test function.
[[nodiscard]] std::vector<std::string> traits_of(const Specification& specification);

} // namespace tanzen
