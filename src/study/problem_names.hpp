#pragma once

#include "tanzen/study/plan.hpp"

#include <string>
#include <string_view>
#include <vector>

/// What the names of a plan's problems say.
namespace tanzen {

[[nodiscard]] bool is_problem_file(std::string_view name);

/// What the plan's problems come to with its families, placements and noise.
[[nodiscard]] std::vector<std::string> spelled_out(const PlanDefinition& plan);

} // namespace tanzen
