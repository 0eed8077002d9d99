#include "results_head.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/readable.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/plan_file.hpp"
#include "tanzen/files/problem_file.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <set>

namespace tanzen {
namespace {

using Json = nlohmann::ordered_json;

constexpr const char* schema = R"(
CREATE TABLE campaign (name TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE problems (
  problem INTEGER PRIMARY KEY, place INTEGER NOT NULL, label TEXT NOT NULL UNIQUE, dimension INTEGER NOT NULL,
  sense TEXT NOT NULL, best REAL, traits TEXT NOT NULL, variables TEXT NOT NULL, definition TEXT NOT NULL,
  identity TEXT NOT NULL);
CREATE TABLE methods (
  method INTEGER PRIMARY KEY, place INTEGER NOT NULL, label TEXT NOT NULL UNIQUE, name TEXT NOT NULL,
  settings TEXT NOT NULL, version INTEGER NOT NULL);
CREATE TABLE targets (
  problem INTEGER NOT NULL REFERENCES problems, target INTEGER NOT NULL, gap REAL NOT NULL,
  PRIMARY KEY (problem, target)) WITHOUT ROWID;
CREATE TABLE sessions (
  session INTEGER PRIMARY KEY, began TEXT NOT NULL, version TEXT NOT NULL, machine TEXT NOT NULL,
  system TEXT NOT NULL, cores INTEGER NOT NULL);
CREATE TABLE runs (
  run INTEGER PRIMARY KEY, problem INTEGER NOT NULL REFERENCES problems, repeat INTEGER NOT NULL,
  method INTEGER NOT NULL REFERENCES methods, session INTEGER NOT NULL REFERENCES sessions,
  status TEXT NOT NULL, message TEXT NOT NULL, value REAL, violation REAL NOT NULL, evaluations INTEGER NOT NULL,
  gradients INTEGER NOT NULL, hessians INTEGER NOT NULL, iterations INTEGER NOT NULL,
  evaluations_to_best INTEGER NOT NULL, broken INTEGER NOT NULL, seconds REAL NOT NULL, point TEXT NOT NULL,
  hits TEXT NOT NULL, trace TEXT NOT NULL, feasible INTEGER NOT NULL, converged INTEGER NOT NULL,
  front TEXT NOT NULL, UNIQUE (problem, repeat, method));
CREATE VIEW hits AS
  SELECT run, problem, repeat, method, key AS target, json_extract(each.value, '$[0]') AS evaluations,
    json_extract(each.value, '$[1]') AS gradients, json_extract(each.value, '$[2]') AS hessians
  FROM runs, json_each(runs.hits) AS each;
PRAGMA application_id = 1413566042;
PRAGMA user_version = 2;
)";

/// What version 1 lacks: nothing but bounds could be broken, and a trace had no header.
constexpr const char* version_1_as_2 = R"(
CREATE TEMP VIEW problems AS SELECT *, '[]' AS identity FROM main.problems;
CREATE TEMP VIEW methods AS SELECT *, 1 AS version FROM main.methods;
CREATE TEMP VIEW runs AS
  SELECT run, problem, repeat, method, session, status, message, value, violation, evaluations, gradients, hessians,
    iterations, evaluations_to_best, broken, seconds, point, hits,
    CASE trace WHEN '' THEN '' ELSE 'iteration,evaluations,gradients,hessians,value,best_value,gradient_norm,step_norm'
      || char(10) || trace END AS trace,
    violation <= 1e-6 AS feasible,
    status IN ('target', 'gradient', 'step', 'value', 'method') AS converged, '[]' AS front
  FROM main.runs;
)";

bool is_same(double a, double b) {
  return a == b || (std::isnan(a) && std::isnan(b));
}

/// The first part of what makes a problem what it is that is another one; empty where all are the same.
std::string identity_difference(const std::vector<IdentityLine>& file, const std::vector<IdentityLine>& plan) {
  for (const IdentityLine& line : file) {
    const auto same = std::ranges::find(plan, line.part, &IdentityLine::part);
    if (same == plan.end()) return fmt::format("its {}: only the file has it: {}", line.part, clipped(line.text, 80));
    if (same->text != line.text)
      return fmt::format("its {}: '{}' in the file, '{}' now", line.part, clipped(line.text, 80),
                         clipped(same->text, 80));
  }
  for (const IdentityLine& line : plan) {
    if (std::ranges::find(file, line.part, &IdentityLine::part) == file.end())
      return fmt::format("its {}: only the plan has it: {}", line.part, clipped(line.text, 80));
  }
  return "";
}

/// What is different about a problem of the same label; empty where nothing is.
std::string difference(const ProblemRow& file, const ProblemRow& plan) {
  if (auto lines = identity_difference(file.identity, plan.identity); !lines.empty()) return lines;
  if (file.dimension != plan.dimension || file.variables != plan.variables) return "its variables";
  if (file.sense != plan.sense) return "its sense";
  if (!is_same(file.best, plan.best)) return "its best value";
  return file.gaps == plan.gaps ? "" : "its targets";
}

std::string definition_text(const Problem& problem) {
  try {
    return definition_to_toml(definition_of(problem.exact()));
  } catch (const InputError&) {
    return "";
  }
}

std::string identity_to_json(const std::vector<IdentityLine>& lines) {
  Json list = Json::array();
  for (const IdentityLine& line : lines) list.push_back({line.part, line.text});
  return list.dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::vector<IdentityLine> identity_from_json(const std::string& text) {
  std::vector<IdentityLine> lines;
  for (const Json& pair : Json::parse(text)) lines.push_back({pair.at(0), pair.at(1)});
  return lines;
}

/// The lines of a plan without what is compared by itself.
std::vector<std::string> other_lines(PlanDefinition plan) {
  plan.title.clear();
  plan.repeats = 1;
  plan.problems.clear();
  plan.methods.clear();
  plan.placements.clear();
  plan.noise.clear();
  plan.best.clear();
  return split(plan_to_toml(plan), '\n');
}

void compare_lines(const PlanDefinition& file, const PlanDefinition& plan, PlanDifferences& differences) {
  const auto in_file = other_lines(file), in_plan = other_lines(plan);
  const auto note_missing = [&](const auto& here, const auto& there, const char* where) {
    for (const std::string& line : here) {
      if (std::ranges::find(there, line) == there.end())
        differences.changed.push_back(fmt::format("only {} says {}", where, line));
    }
  };
  note_missing(in_file, in_plan, "the file");
  note_missing(in_plan, in_file, "the plan");
}

template <class Row, class Difference>
void compare_rows(const char* what, const std::vector<Row>& file, const std::vector<Row>& plan,
                  PlanDifferences& differences, Difference&& difference_of) {
  for (const Row& row : file) {
    const auto same = std::ranges::find(plan, row.label, &Row::label);
    if (same == plan.end()) {
      differences.changed.push_back(fmt::format("only the file has the {} {}", what, row.label));
    } else if (const std::string difference = difference_of(row, *same); !difference.empty()) {
      differences.changed.push_back(fmt::format("the {} {} differs in {}", what, row.label, difference));
    }
  }
  for (const Row& row : plan) {
    if (std::ranges::find(file, row.label, &Row::label) == file.end())
      differences.added.push_back(fmt::format("the {} {}", what, row.label));
  }
}

std::vector<std::string> texts_from(const std::string& json) {
  return Json::parse(json).get<std::vector<std::string>>();
}

std::vector<double> read_gaps(const sqlite::Database& database, std::int64_t problem) {
  sqlite::Statement statement(database, "SELECT gap FROM targets WHERE problem = ? ORDER BY target");
  statement.bind(1, problem);
  std::vector<double> gaps;
  while (statement.step()) gaps.push_back(statement.number(0));
  return gaps;
}

std::vector<std::int64_t> read_column(const sqlite::Database& database, const char* sql) {
  sqlite::Statement statement(database, sql);
  std::vector<std::int64_t> column;
  while (statement.step()) column.push_back(statement.integer(0));
  return column;
}

void write_problem(const sqlite::Database& database, const ProblemRow& row, std::int64_t place) {
  sqlite::Statement(
      database, "INSERT INTO problems (place, label, dimension, sense, best, traits, variables, definition, "
                "identity) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT (label) DO UPDATE SET place = excluded.place")
      .bind(1, place)
      .bind(2, row.label)
      .bind(3, static_cast<std::int64_t>(row.dimension))
      .bind(4, row.sense == Sense::minimize ? "minimize" : "maximize")
      .bind(5, row.best)
      .bind(6, Json(row.traits).dump())
      .bind(7, Json(row.variables).dump())
      .bind(8, row.definition)
      .bind(9, identity_to_json(row.identity))
      .run();
  for (std::size_t k = 0; k < row.gaps.size(); ++k) {
    sqlite::Statement(database, "INSERT OR IGNORE INTO targets (problem, target, gap) "
                                "SELECT problem, ?, ? FROM problems WHERE label = ?")
        .bind(1, static_cast<std::int64_t>(k))
        .bind(2, row.gaps[k])
        .bind(3, row.label)
        .run();
  }
}

} // namespace

FileHead head_of(const Campaign& campaign) {
  FileHead head{.plan = campaign.plan(), .problems = {}, .methods = {}};
  const ResultsHead results = results_head(campaign);
  for (std::size_t p = 0; p < results.problems.size(); ++p) {
    const ResultsProblem& known = results.problems[p];
    const CampaignProblem& planned = campaign.problems()[p];
    head.problems.push_back({known.label, known.dimension, known.sense, known.reference, known.traits,
                             planned.problem.variable_names(), definition_text(planned.problem),
                             identity_of(planned.problem), known.gaps});
  }
  for (const Method& method : campaign.methods()) {
    Json settings = Json::object();
    for (const auto& row : method.settings()) settings[row.name] = row.value;
    head.methods.push_back({method.label(), method.name(), settings.dump(), method.card().version});
  }
  return head;
}

std::vector<Objective> objectives_of(const ProblemRow& row) {
  constexpr std::string_view part = "objective ";
  std::vector<Objective> objectives;
  for (const IdentityLine& line : row.identity) {
    if (!line.part.starts_with(part)) continue;
    objectives.push_back({.name = line.part.substr(part.size()),
                          .sense = line.text.starts_with("maximize") ? Sense::maximize : Sense::minimize});
  }
  return objectives.size() > 1 ? objectives : std::vector<Objective>();
}

PlanDifferences differences_between(const FileHead& file, const FileHead& campaign) {
  PlanDifferences differences;
  compare_lines(file.plan, campaign.plan, differences);
  compare_rows("problem", file.problems, campaign.problems, differences, difference);
  compare_rows("method", file.methods, campaign.methods, differences, [](const MethodRow& a, const MethodRow& b) {
    if (a.version != b.version) return fmt::format("its version: {} in the file, {} now", a.version, b.version);
    return a == b ? std::string() : std::string("its settings");
  });
  const std::int64_t before = file.plan.repeats, now = campaign.plan.repeats;
  if (now > before) differences.added.push_back(fmt::format("repeats {} to {}", before + 1, now));
  if (now < before) differences.changed.push_back(fmt::format("the file has {} repeats, the plan {}", before, now));
  return differences;
}

void create_tables(const sqlite::Database& database) {
  database.execute(schema);
}

void show_as_current(const sqlite::Database& database, std::int64_t file_version) {
  if (file_version == 1) database.execute(version_1_as_2);
}

namespace {

/// Throws for a head that no campaign writes: what is read from a file is checked before anything counts on it.
void check_head(const FileHead& head) {
  if (head.problems.empty()) throw InputError("it has no problem");
  if (head.methods.empty()) throw InputError("it has no method");
  std::set<std::string> labels;
  for (const ProblemRow& row : head.problems) {
    check_readable(row.label, "the problem");
    for (const auto* texts : {&row.traits, &row.variables}) {
      for (const std::string& text : *texts) check_readable(text, "a word");
    }
    for (const Objective& objective : objectives_of(row)) check_readable(objective.name, "the objective");
    if (row.label.empty() || !labels.insert(row.label).second)
      throw InputError(fmt::format("the problem '{}' is there twice, or has no name", row.label));
    if (row.dimension < 1 || static_cast<std::size_t>(row.dimension) != row.variables.size())
      throw InputError(
          fmt::format("{} has {} variables and {} names of them", row.label, row.dimension, row.variables.size()));
    if (row.gaps.empty() != std::isnan(row.best))
      throw InputError(fmt::format("{} has {}", row.label,
                                   row.gaps.empty() ? "no targets" : "targets, and no best value that they are for"));
    for (std::size_t k = 0; k < row.gaps.size(); ++k) {
      if (!(row.gaps[k] > 0) || !std::isfinite(row.gaps[k]) || (k > 0 && row.gaps[k] >= row.gaps[k - 1]))
        throw InputError(fmt::format("the targets of {} do not fall from one to the next", row.label));
    }
  }
  labels.clear();
  for (const MethodRow& row : head.methods) {
    check_readable(row.label, "the method");
    check_readable(row.name, "the method");
    if (row.label.empty() || !labels.insert(row.label).second)
      throw InputError(fmt::format("the method '{}' is there twice, or has no name", row.label));
  }
  check_size(head.problems.size(), head.methods.size(), head.plan.repeats);
}

FileHead head_in(const sqlite::Database& database) {
  FileHead head;
  sqlite::Statement plan(database, "SELECT value FROM campaign WHERE name = 'plan'");
  if (!plan.step()) throw InputError("it has no plan");
  head.plan = plan_from_toml(plan.text(0));
  sqlite::Statement problems(database,
                             "SELECT problem, label, dimension, sense, best, traits, variables, definition, identity "
                             "FROM problems ORDER BY place");
  while (problems.step()) {
    head.problems.push_back({.label = problems.text(1),
                             .dimension = static_cast<Index>(problems.integer(2)),
                             .sense = problems.text(3) == "maximize" ? Sense::maximize : Sense::minimize,
                             .best = problems.number(4),
                             .traits = texts_from(problems.text(5)),
                             .variables = texts_from(problems.text(6)),
                             .definition = problems.text(7),
                             .identity = identity_from_json(problems.text(8)),
                             .gaps = read_gaps(database, problems.integer(0))});
  }
  sqlite::Statement methods(database, "SELECT label, name, settings, version FROM methods ORDER BY place");
  while (methods.step())
    head.methods.push_back({methods.text(0), methods.text(1), methods.text(2), methods.integer(3)});
  check_head(head);
  return head;
}

} // namespace

FileHead read_head(const sqlite::Database& database) {
  try {
    return head_in(database);
  } catch (const FileError&) {
    throw;
  } catch (const Json::exception&) {
    throw FileError(fmt::format("{}: what it says of its campaign is damaged: a list in it cannot be read",
                                database.path().string()));
  } catch (const std::exception& error) {
    throw FileError(fmt::format("{}: what it says of its campaign is damaged: {}", database.path().string(),
                                readable_line(clipped(error.what(), 200))));
  }
}

FileNumbers read_numbers(const sqlite::Database& database) {
  return {read_column(database, "SELECT problem FROM problems ORDER BY place"),
          read_column(database, "SELECT method FROM methods ORDER BY place")};
}

void write_head(const sqlite::Database& database, const FileHead& head) {
  sqlite::Statement(database, "INSERT OR REPLACE INTO campaign (name, value) VALUES ('plan', ?)")
      .bind(1, plan_to_toml(head.plan))
      .run();
  for (std::size_t p = 0; p < head.problems.size(); ++p)
    write_problem(database, head.problems[p], static_cast<std::int64_t>(p));
  for (std::size_t m = 0; m < head.methods.size(); ++m) {
    const MethodRow& row = head.methods[m];
    sqlite::Statement(database, "INSERT INTO methods (place, label, name, settings, version) VALUES (?, ?, ?, ?, ?) "
                                "ON CONFLICT (label) DO UPDATE SET place = excluded.place")
        .bind(1, static_cast<std::int64_t>(m))
        .bind(2, row.label)
        .bind(3, row.name)
        .bind(4, row.settings)
        .bind(5, row.version)
        .run();
  }
}

} // namespace tanzen
