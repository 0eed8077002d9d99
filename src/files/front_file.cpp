#include "tanzen/files/front_file.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/csv_cell.hpp"
#include "tanzen/files/write_file.hpp"

#include <fmt/format.h>

namespace tanzen {

std::string front_to_csv(const Outcome& outcome) {
  std::vector<std::string> names;
  for (const Objective& objective : outcome.objectives) names.push_back(csv_cell(objective.name));
  for (const std::string& variable : outcome.variable_names) names.push_back(csv_cell(variable));
  std::string text = joined(names, ",") + "\n";
  for (const FrontPoint& each : outcome.front) {
    std::vector<std::string> cells;
    for (const double value : each.objectives) cells.push_back(csv_cell(value));
    for (const double coordinate : each.point) cells.push_back(csv_cell(coordinate));
    text += joined(cells, ",") + "\n";
  }
  return text;
}

void check_front_name(const std::filesystem::path& path) {
  if (path.extension() != ".csv")
    throw InputError(fmt::format("a front is written as .csv, not '{}'", path.filename().string()));
}

void write_front(const std::filesystem::path& path, const Outcome& outcome) {
  check_front_name(path);
  write_file(path, front_to_csv(outcome));
}

} // namespace tanzen
