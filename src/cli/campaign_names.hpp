#pragma once

#include "tanzen/campaign/campaign.hpp"
#include "tanzen/cli/command_line.hpp"

#include <algorithm>
#include <filesystem>

namespace tanzen::cli {

/// Where the names of a plan file are looked up: what the program adds, the testbed, problem files beside the plan.
inline PlanNames names_beside(const Additions& additions, const std::filesystem::path& plan) {
  return {additions.methods, [&additions, folder = plan.parent_path()](const std::string& name) {
            const auto added = std::ranges::find(additions.problems, name, &Problem::name);
            return added != additions.problems.end() ? *added : named_problem(name, folder);
          }};
}

} // namespace tanzen::cli
