#pragma once

#include "tanzen/search/outcome.hpp"

#include <filesystem>
#include <string>

namespace tanzen {

/// Populations as CSV, a line a member: `iteration, member, value`, then the variables. A value that is missing is
/// empty.
[[nodiscard]] std::string populations_to_csv(const Outcome& outcome);

/// Throws InputError for a name that does not end in .csv.
void check_population_name(const std::filesystem::path& path);

/// Writes them. Throws InputError where the run kept none: its method has no population.
void write_populations(const std::filesystem::path& path, const Outcome& outcome);

} // namespace tanzen
