#pragma once

#include "commands.hpp"

#include <filesystem>

namespace tanzen::cli {

/// The last act of the tour: a campaign of several hundred runs that separates the families of methods, with its plan,
/// its results file, its tables, its figures and its sentences.
void demo_campaign(const Context& context, const std::filesystem::path& folder);

/// Writes the report of a results file, by the ending of its name, and says what it says.
void write_campaign_report(const Context& context, const std::filesystem::path& results,
                           const std::filesystem::path& output);

} // namespace tanzen::cli
