#pragma once

#include "tanzen/study/plan.hpp"

#include <filesystem>
#include <string>
#include <string_view>

namespace tanzen {

/// Reads a plan (TOML). Throws InputError that names the line of a TOML error, an unknown key with the nearest one, a
/// value of the wrong kind or out of range, a plan without problems or methods.
[[nodiscard]] PlanDefinition plan_from_toml(std::string_view text);
[[nodiscard]] PlanDefinition read_plan(const std::filesystem::path& path);

/// Writes a plan that reads back to the same plan; defaults are left out.
[[nodiscard]] std::string plan_to_toml(const PlanDefinition& plan);

/// The word for a derivative mode, as in plans and on the command line; `automatic` for none chosen.
[[nodiscard]] std::string_view derivative_word(DerivativeMode mode);

} // namespace tanzen
