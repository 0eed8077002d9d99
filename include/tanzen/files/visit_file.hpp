#pragma once

#include "tanzen/search/outcome.hpp"

#include <filesystem>
#include <memory>
#include <string>
#include <utility>
#include <vector>

namespace tanzen {

/// Every point that a run visits: a listener for one run. Copies share what they heard.
class Visits {
 public:
  struct Visit {
    Vector point = {};
    double value = 0; ///< in the problem's sense; NaN or infinite where there was none
  };

  /// The problem with somebody listening.
  [[nodiscard]] Problem heard(const Problem& problem);
  [[nodiscard]] const std::vector<Visit>& all() const { return *heard_; }

 private:
  std::shared_ptr<std::vector<Visit>> heard_ = std::make_shared<std::vector<Visit>>();
};

/// Visits as CSV, a line each: `visit` from 1, the `iteration` that it belongs to as far as the trace has kept it (0:
/// the start), `value`, `best` (1 where it was the best so far), then the variables. A value that is missing is empty.
[[nodiscard]] std::string visits_to_csv(const Visits& visits, const Outcome& outcome);

/// Throws InputError for a name that does not end in .csv.
void check_visits_name(const std::filesystem::path& path);

void write_visits(const std::filesystem::path& path, const Visits& visits, const Outcome& outcome);

} // namespace tanzen
