#pragma once

#include "tanzen/campaign/campaign.hpp"
#include "tanzen/campaign/results_file.hpp"

#include "sqlite.hpp"

#include <string>
#include <vector>

namespace tanzen {

/// What a results file says of one problem.
struct ProblemRow {
  std::string label;
  Index dimension = 0;
  Sense sense = Sense::minimize;
  double best = 0; ///< NaN where it is not known
  std::vector<std::string> traits;
  std::vector<std::string> variables;
  std::string definition;
  std::vector<double> gaps;
};

/// What a results file says of one method.
struct MethodRow {
  std::string label;
  std::string name;
  std::string settings; ///< JSON, all of them as they stood

  friend bool operator==(const MethodRow&, const MethodRow&) = default;
};

/// What a results file holds besides its runs; rows in the order of the plan.
struct FileHead {
  PlanDefinition plan;
  std::vector<ProblemRow> problems;
  std::vector<MethodRow> methods;
};

[[nodiscard]] FileHead head_of(const Campaign& campaign);
[[nodiscard]] PlanDifferences differences_between(const FileHead& file, const FileHead& campaign);

/// The numbers that a file gave its problems and methods, in the order of the plan.
struct FileNumbers {
  std::vector<std::int64_t> problems;
  std::vector<std::int64_t> methods;
};

void create_tables(const sqlite::Database& database);
[[nodiscard]] FileHead read_head(const sqlite::Database& database);
[[nodiscard]] FileNumbers read_numbers(const sqlite::Database& database);
/// Writes what is new and the order of all; what is there keeps its number.
void write_head(const sqlite::Database& database, const FileHead& head);

} // namespace tanzen
