#include "arguments.hpp"
#include "commands.hpp"
#include "pictures.hpp"
#include "tanzen/report/table.hpp"

#include "tanzen/analysis/stationary_points.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/stationary_figure.hpp"
#include "tanzen/search/outcome.hpp"

#include <memory>
#include <nlohmann/json.hpp>

namespace tanzen::cli {
namespace {

using Json = nlohmann::ordered_json;

struct StationaryArguments {
  std::string name;
  ProblemArguments problem;
  std::optional<std::int64_t> starts;
  std::uint64_t seed = 1;
  PictureArguments pictures;
  bool show = false;
  bool as_json = false;
};

std::vector<double> numbers(const Vector& vector) {
  return {vector.begin(), vector.end()};
}

std::string json_of(const StationaryPoints& found) {
  Json points = Json::array();
  for (const StationaryPoint& each : found.points) {
    points.push_back({{"value", each.value},
                      {"point", numbers(each.point)},
                      {"multipliers", numbers(each.multipliers)},
                      {"kind", point_kind_word(each.curvature.kind)},
                      {"eigenvalues", numbers(each.curvature.eigenvalues)}});
  }
  return Json({{"points", points}, {"complete", found.complete}, {"how", found.how}}).dump();
}

std::string table_of(const Problem& problem, const StationaryPoints& found, std::size_t width) {
  Table table;
  table.column("value");
  table.column("kind", Table::Align::left);
  for (const std::string& name : problem.variable_names()) table.column(name);
  for (const Constraint& row : problem.constraints()) table.column("of " + row.name);
  for (const StationaryPoint& each : found.points) {
    std::vector<std::string> cells{short_number(each.value, 10), std::string(point_kind_word(each.curvature.kind))};
    for (const double coordinate : each.point) cells.push_back(short_number(coordinate, 8));
    for (const double multiplier : each.multipliers) cells.push_back(short_number(multiplier, 8));
    table.row(std::move(cells));
  }
  return table.text(width);
}

void show_equations(const Context& context, const Problem& problem) {
  const std::vector<std::string> lines = stationary_equations(problem);
  context.print("\n{}", block_line(problem.constraints().empty() ? "function" : "Lagrangian", lines.front()));
  for (std::size_t k = 1; k < lines.size(); ++k) context.print("{}", block_line(k == 1 ? "equations" : "", lines[k]));
}

int find_points(const Context& context, const StationaryArguments& arguments) {
  arguments.pictures.check();
  const Problem problem = arguments.problem.problem(context.additions, arguments.name);
  const StationaryPoints found = stationary_points(problem, {.starts = arguments.starts, .seed = arguments.seed});
  if (arguments.as_json) {
    context.print("{}\n", json_of(found));
  } else {
    context.print("  {}, {}{}\n", problem.name(), counted(problem.dimension(), "variable"),
                  problem.constraints().empty() ? std::string()
                                                : ", " + counted(problem.parts().constraints, "equality constraint"));
    if (arguments.show) show_equations(context, problem);
    if (!found.points.empty()) context.print("\n{}\n", table_of(problem, found, context.width));
    context.print("{}", block_line("complete", found.how));
    if (found.outside > 0)
      context.print("{}", block_line("outside", fmt::format("{} outside the region or on its bounds are not listed",
                                                            counted(found.outside, "more point"))));
  }
  arguments.pictures.write(
      context, fmt::format("Stationary points of {}", problem.name()),
      [&] { return stationary_figure(problem, found); }, arguments.as_json);
  return found.points.empty() ? 1 : 0;
}

} // namespace

void add_stationary(const Command& program, Context& context) {
  const Command command =
      program.command("stationary", "all stationary points, under equality constraints too, each classified");
  auto arguments = std::make_shared<StationaryArguments>();
  command.takes("problem", arguments->name, "PROBLEM", "a problem, with options after a colon");
  arguments->problem.add_to(command);
  add_count(command, "--starts", arguments->starts, "searches begin at so many points first (60, and 20 a variable)");
  add_seed(command, arguments->seed);
  arguments->pictures.add_to(command, "them, of one or two variables");
  command.flag("--show", arguments->show, "print the Lagrangian and its equations as formulas");
  command.flag("--json", arguments->as_json, "one object for machines");
  command.example("tanzen stationary himmelblau");
  command.does([arguments, &context] { context.exit_code = find_points(context, *arguments); });
}

} // namespace tanzen::cli
