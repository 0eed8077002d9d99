#include "arguments.hpp"
#include "commands.hpp"
#include "outputs.hpp"
#include "tanzen/report/table.hpp"

#include "tanzen/analysis/sample.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/table_file.hpp"
#include "tanzen/files/write_file.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <nlohmann/json.hpp>

namespace tanzen::cli {
namespace {

using Json = nlohmann::ordered_json;

struct SampleArguments {
  std::string name;
  ProblemArguments problem;
  std::optional<std::int64_t> points, rows;
  std::string sampling = "uniform", write;
  std::uint64_t seed = 1;
  bool as_json = false;
};

std::vector<std::string> objective_names(const Problem& problem) {
  std::vector<std::string> names;
  for (const Objective& objective : problem.objectives())
    names.push_back(problem.objectives().size() > 1 ? objective.name : "value");
  return names.empty() ? std::vector<std::string>{"value"} : names;
}

std::string number_cell(double value) {
  return std::isnan(value) ? "-" : short_number(value, 6);
}

/// The first members in decision space; of many variables the first and the last.
std::string decision_table(const Problem& problem, const Sample& sample, Index rows, std::size_t width) {
  constexpr Index most = 8;
  const std::vector<std::string> names = problem.variable_names();
  const Index n = problem.dimension(), shown = n > most ? most - 1 : n;
  Table table;
  table.column("member");
  for (Index i = 0; i < shown; ++i) table.column(names[static_cast<std::size_t>(i)]);
  if (n > most) table.column("...");
  if (n > most) table.column(names.back());
  for (Index k = 0; k < rows; ++k) {
    std::vector<std::string> cells{std::to_string(k + 1)};
    for (Index i = 0; i < shown; ++i) cells.push_back(short_number(sample.points(i, k), 4));
    if (n > most) cells.emplace_back("");
    if (n > most) cells.push_back(short_number(sample.points(n - 1, k), 4));
    table.row(std::move(cells));
  }
  return table.text(width);
}

std::string mark_of(const Sample& sample, Index k) {
  if (sample.best) return k == *sample.best ? "best" : "";
  const int rank = sample.ranks[static_cast<std::size_t>(k)];
  return rank == 0 ? "front" : rank < 0 ? "" : fmt::format("rank {}", rank + 1);
}

std::string objective_table(const Problem& problem, const Sample& sample, const std::vector<Index>& members,
                            std::size_t width) {
  Table table;
  table.column("member");
  for (const std::string& name : objective_names(problem)) table.column(name);
  const bool is_constrained = !problem.constraints().empty();
  if (is_constrained) table.column("violation");
  table.column("", Table::Align::left);
  for (const Index k : members) {
    std::vector<std::string> cells{std::to_string(k + 1)};
    for (const double value : sample.objectives.col(k)) cells.push_back(number_cell(value));
    if (is_constrained) cells.push_back(number_cell(sample.violations[k]));
    cells.push_back(mark_of(sample, k));
    table.row(std::move(cells));
  }
  return table.text(width);
}

DataTable whole_table(const Problem& problem, const Sample& sample) {
  DataTable table{.columns = problem.variable_names()};
  std::ranges::copy(objective_names(problem), std::back_inserter(table.columns));
  table.rows.resize(sample.points.cols(), sample.points.rows() + sample.objectives.rows());
  table.rows << sample.points.transpose(), sample.objectives.transpose();
  return table;
}

std::string sample_json(const Problem& problem, const Sample& sample) {
  Json points = Json::array(), values = Json::array(), front = Json::array();
  for (Index k = 0; k < sample.points.cols(); ++k) {
    points.push_back(std::vector<double>(sample.points.col(k).begin(), sample.points.col(k).end()));
    Json own = Json::array();
    for (const double value : sample.objectives.col(k)) own.push_back(std::isnan(value) ? Json() : Json(value));
    values.push_back(own);
    if (sample.ranks[static_cast<std::size_t>(k)] == 0 && !sample.best) front.push_back(k);
  }
  return Json({{"problem", problem.name()},
               {"variables", problem.variable_names()},
               {"objectives", objective_names(problem)},
               {"points", points},
               {"values", values},
               {"best", sample.best ? Json(*sample.best) : Json()},
               {"nondominated", front}})
      .dump();
}

void print_sample(const Context& context, const Problem& problem, const Sample& sample, Index rows) {
  const Index count = sample.points.cols();
  std::vector<Index> members;
  for (Index k = 0; k < rows; ++k) members.push_back(k);
  context.print("  {}, {}, {}\n", problem.name(), counted(problem.dimension(), "variable"),
                counted(count, "random point"));
  context.print("\n{}\n", decision_table(problem, sample, rows, context.width));
  context.print("{}\n", objective_table(problem, sample, members, context.width));
  if (sample.best) {
    context.print("{}", block_line("best", fmt::format("member {}: {} at {}", *sample.best + 1,
                                                       number_cell(sample.objectives(0, *sample.best)),
                                                       point_text(sample.points.col(*sample.best)))));
    return;
  }
  const auto front = std::ranges::count(sample.ranks, 0);
  context.print("{}", block_line("front", fmt::format("{} of {} are dominated by no other", front, count)));
}

void show_sample(const Context& context, const SampleArguments& arguments) {
  if (!arguments.write.empty() && !arguments.write.ends_with(".csv"))
    throw InputError(
        fmt::format("--write makes a table: a name that ends in .csv; found '{}'", clipped(arguments.write, 60)));
  check_outputs(std::array{OutputFile{"--write", arguments.write}});
  const Problem problem = arguments.problem.problem(context.additions, arguments.name);
  const Index count = arguments.points.value_or(50), rows = std::min<Index>(count, arguments.rows.value_or(5));
  const Sample sample = draw_sample(problem, count, parse_sampling(arguments.sampling), arguments.seed);
  if (arguments.as_json)
    context.print("{}\n", sample_json(problem, sample));
  else
    print_sample(context, problem, sample, rows);
  if (arguments.write.empty()) return;
  write_file(arguments.write, table_to_csv(whole_table(problem, sample)));
  if (!arguments.as_json) context.print("{}", block_line("written", arguments.write));
}

} // namespace

void add_sample(const Command& command, Context& context) {
  auto arguments = std::make_shared<SampleArguments>();
  command.takes("problem", arguments->name, "PROBLEM", "a problem, with options after a colon");
  arguments->problem.add_to(command);
  add_count(command, "--points", arguments->points, "how many points (50)", 1, 10'000'000);
  add_count(command, "--rows", arguments->rows, "how many of them are printed (5)");
  command.takes("--sampling", arguments->sampling, "WORD", "uniform, latin-hypercube or sobol (uniform)");
  add_seed(command, arguments->seed);
  command.takes("--write", arguments->write, "FILE", "write all of them as a table (.csv)");
  command.flag("--json", arguments->as_json, "one object for machines");
  command.example("tanzen sample examples/glaze-firing.toml --points 50");
  command.does([arguments, &context] { show_sample(context, *arguments); });
}

} // namespace tanzen::cli
