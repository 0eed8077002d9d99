#pragma once

#include "tanzen/search/outcome.hpp"

#include <filesystem>
#include <string>

namespace tanzen {

/// A front as CSV: a column an objective, by its name, then a column a variable; a line a point, by the first
/// objective.
[[nodiscard]] std::string front_to_csv(const Outcome& outcome);
/// Throws InputError for another ending than .csv.
void write_front(const std::filesystem::path& path, const Outcome& outcome);
void check_front_name(const std::filesystem::path& path);

} // namespace tanzen
