#pragma once

#include "tanzen/problem/definition.hpp"
#include "tanzen/results/results_file.hpp"
#include "tanzen/study/campaign.hpp"

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
  std::string definition;             ///< its text, where it can be written out
  std::vector<IdentityLine> identity; ///< all that makes it what it is
  std::vector<double> gaps;
};

/// What a results file says of one method.
struct MethodRow {
  std::string label;
  std::string name;
  std::string settings; ///< JSON, all of them as they stood
  std::int64_t version = 1;

  friend bool operator==(const MethodRow&, const MethodRow&) = default;
};

/// What a results file holds besides its runs; rows in the order of the plan.
struct FileHead {
  PlanDefinition plan;
  std::vector<ProblemRow> problems;
  std::vector<MethodRow> methods;
};

[[nodiscard]] FileHead head_of(const Campaign& campaign);
/// The names and senses of a problem's objectives, where it has several.
[[nodiscard]] std::vector<Objective> objectives_of(const ProblemRow& row);
[[nodiscard]] PlanDifferences differences_between(const FileHead& file, const FileHead& campaign);

/// The numbers that a file gave its problems and methods, in the order of the plan.
struct FileNumbers {
  std::vector<std::int64_t> problems;
  std::vector<std::int64_t> methods;
};

/// The version of the schema that is written; docs/results-file.md says what is in it.
inline constexpr std::int64_t schema_version = 2;
void create_tables(const sqlite::Database& database);
/// Shows a file of an older version as one of this: by temporary views, so that the file stays as it is.
void show_as_current(const sqlite::Database& database, std::int64_t file_version);
[[nodiscard]] FileHead read_head(const sqlite::Database& database);
[[nodiscard]] FileNumbers read_numbers(const sqlite::Database& database);
/// Writes what is new and the order of all; what is there keeps its number.
void write_head(const sqlite::Database& database, const FileHead& head);

} // namespace tanzen
