#pragma once

#include "tanzen/cli/command_line.hpp"
#include "tanzen/study/campaign.hpp"

#include <filesystem>
#include <string>

namespace tanzen::cli {

/// A problem of the program's own, or one of the testbed. Throws InputError, with the nearest name of both.
[[nodiscard]] Problem added_or_test_problem(const Additions& additions, const std::string& name);

/// Where the names of a plan file are looked up: what the program adds, the testbed, problem files beside the plan.
[[nodiscard]] PlanNames names_beside(const Additions& additions, const std::filesystem::path& plan);

} // namespace tanzen::cli
