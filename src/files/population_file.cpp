#include "tanzen/files/population_file.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/write_file.hpp"

#include <cmath>
#include <fmt/format.h>
#include <iterator>

namespace tanzen {

std::string populations_to_csv(const Outcome& outcome) {
  fmt::memory_buffer text;
  const auto out = std::back_inserter(text);
  fmt::format_to(out, "iteration,member,value,{}\n", joined(outcome.variable_names, ","));
  for (const PopulationSnapshot& snapshot : outcome.trace.populations()) {
    for (Index k = 0; k < snapshot.points.cols(); ++k) {
      fmt::format_to(out, "{},{},", snapshot.iteration, k + 1);
      if (std::isfinite(snapshot.values[k])) fmt::format_to(out, "{}", snapshot.values[k]);
      for (Index j = 0; j < snapshot.points.rows(); ++j) fmt::format_to(out, ",{}", snapshot.points(j, k));
      text.push_back('\n');
    }
  }
  return fmt::to_string(text);
}

void check_population_name(const std::filesystem::path& path) {
  if (path.extension() != ".csv")
    throw InputError(fmt::format("a population is written as .csv, not '{}'", path.filename().string()));
}

void write_populations(const std::filesystem::path& path, const Outcome& outcome) {
  check_population_name(path);
  if (outcome.trace.populations().empty())
    throw InputError(fmt::format("{} has no population to write to {}", outcome.method, path.filename().string()));
  write_file(path, populations_to_csv(outcome));
}

} // namespace tanzen
