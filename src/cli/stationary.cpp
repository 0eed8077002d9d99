#include "arguments.hpp"
#include "commands.hpp"
#include "pictures.hpp"
#include "tanzen/report/table.hpp"

#include "tanzen/analysis/proved_stationary_points.hpp"
#include "tanzen/analysis/stationary_points.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/stationary_figure.hpp"
#include "tanzen/search/outcome.hpp"

#include <algorithm>
#include <chrono>
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
  bool prove = false;
  std::optional<double> proof_seconds;
  bool as_json = false;
};

std::vector<double> numbers(const Vector& vector) {
  return {vector.begin(), vector.end()};
}

std::string json_of(const ProvedStationaryPoints& found) {
  Json points = Json::array();
  for (const ProvedStationaryPoint& each : found.points) {
    points.push_back({{"value", {each.least_value, each.most_value}},
                      {"lower", numbers(each.lower)},
                      {"upper", numbers(each.upper)},
                      {"multipliers", {numbers(each.least_multipliers), numbers(each.most_multipliers)}},
                      {"kind", point_kind_word(each.kind)}});
  }
  return Json({{"points", points},
               {"complete", found.complete},
               {"at_edge", found.at_edge},
               {"undecided", found.undecided},
               {"boxes", found.looked_at},
               {"how", found.how}})
      .dump();
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

Table empty_table(const Problem& problem) {
  Table table;
  table.column("value");
  table.column("kind", Table::Align::left);
  for (const std::string& name : problem.variable_names()) table.column(name);
  for (const Constraint& row : problem.constraints()) table.column("of " + row.name);
  return table;
}

std::string table_of(const Problem& problem, const StationaryPoints& found, std::size_t width) {
  Table table = empty_table(problem);
  for (const StationaryPoint& each : found.points) {
    std::vector<std::string> cells{short_number(each.value, 10), std::string(point_kind_word(each.curvature.kind))};
    for (const double coordinate : each.point) cells.push_back(short_number(coordinate, 8));
    for (const double multiplier : each.multipliers) cells.push_back(short_number(multiplier, 8));
    table.row(std::move(cells));
  }
  return table.text(width);
}

/// As many digits as the enclosure is sure of, ten at most; zero where it may be that to ten places.
std::string sure_number(double lower, double upper) {
  constexpr int most = 10;
  if (lower <= 0 && upper >= 0 && std::max(-lower, upper) < 1e-10) return "0";
  for (int digits = most; digits > 1; --digits) {
    const std::string text = short_number(0.5 * (lower + upper), digits);
    if (text == short_number(lower, digits) && text == short_number(upper, digits)) return text;
  }
  return short_number(0.5 * (lower + upper), 1);
}

std::string table_of(const Problem& problem, const ProvedStationaryPoints& found, std::size_t width) {
  Table table = empty_table(problem);
  for (const ProvedStationaryPoint& each : found.points) {
    std::vector<std::string> cells{sure_number(each.least_value, each.most_value),
                                   std::string(point_kind_word(each.kind))};
    for (Index i = 0; i < each.lower.size(); ++i) cells.push_back(sure_number(each.lower[i], each.upper[i]));
    for (Index k = 0; k < each.least_multipliers.size(); ++k)
      cells.push_back(sure_number(each.least_multipliers[k], each.most_multipliers[k]));
    table.row(std::move(cells));
  }
  return table.text(width);
}

void show_equations(const Context& context, const Problem& problem) {
  const std::vector<std::string> lines = stationary_equations(problem);
  context.print("\n{}", block_line(problem.constraints().empty() ? "function" : "Lagrangian", lines.front()));
  for (std::size_t k = 1; k < lines.size(); ++k) context.print("{}", block_line(k == 1 ? "equations" : "", lines[k]));
}

void print_head(const Context& context, const StationaryArguments& arguments, const Problem& problem) {
  context.print("  {}, {}{}\n", problem.name(), counted(problem.dimension(), "variable"),
                problem.constraints().empty() ? std::string()
                                              : ", " + counted(problem.parts().constraints, "equality constraint"));
  if (arguments.show) show_equations(context, problem);
}

/// As they are drawn: at the middles of their boxes.
StationaryPoints drawn(const ProvedStationaryPoints& found) {
  StationaryPoints points{.complete = found.complete, .how = found.how};
  for (const ProvedStationaryPoint& each : found.points) {
    points.points.push_back({.point = each.point(),
                             .value = 0.5 * (each.least_value + each.most_value),
                             .multipliers = 0.5 * (each.least_multipliers + each.most_multipliers),
                             .curvature = {.kind = each.kind}});
  }
  return points;
}

int prove_points(const Context& context, const StationaryArguments& arguments, const Problem& problem) {
  using Clock = std::chrono::steady_clock;
  const auto began = Clock::now();
  const auto is_over = [&] {
    return std::chrono::duration<double>(Clock::now() - began).count() > arguments.proof_seconds.value_or(30);
  };
  const ProvedStationaryPoints found = prove_stationary_points(problem, {.should_stop = is_over});
  if (arguments.as_json) {
    context.print("{}\n", json_of(found));
  } else {
    print_head(context, arguments, problem);
    if (!found.points.empty()) context.print("\n{}\n", table_of(problem, found, context.width));
    context.print("{}", block_line("complete", found.how));
    if (found.at_edge > 0)
      context.print("{}", block_line("edge", fmt::format("{} of them on the region's edge", found.at_edge)));
  }
  arguments.pictures.write(
      context, fmt::format("Stationary points of {}", problem.name()),
      [&] { return stationary_figure(problem, drawn(found)); }, arguments.as_json);
  return found.complete ? 0 : 1;
}

int search_points(const Context& context, const StationaryArguments& arguments, const Problem& problem) {
  const StationaryPoints found = stationary_points(problem, {.starts = arguments.starts, .seed = arguments.seed});
  if (arguments.as_json) {
    context.print("{}\n", json_of(found));
  } else {
    print_head(context, arguments, problem);
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

int find_points(const Context& context, const StationaryArguments& arguments) {
  arguments.pictures.check();
  const Problem problem = arguments.problem.problem(context.additions, arguments.name);
  return arguments.prove ? prove_points(context, arguments, problem) : search_points(context, arguments, problem);
}

} // namespace

void add_stationary(const Command& command, Context& context) {
  auto arguments = std::make_shared<StationaryArguments>();
  command.takes("problem", arguments->name, "PROBLEM", "a problem, with options after a colon");
  arguments->problem.add_to(command);
  add_count(command, "--starts", arguments->starts, "searches begin at so many points first (60, and 20 a variable)");
  add_seed(command, arguments->seed);
  arguments->pictures.add_to(command, "them, of one or two variables");
  command.flag("--prove", arguments->prove, "prove each, and that there are no others in the region");
  add_number(command, "--proof-seconds", arguments->proof_seconds, "how long a proof may take (30)", 0);
  command.flag("--show", arguments->show, "print the Lagrangian and its equations as formulas");
  command.flag("--json", arguments->as_json, "one object for machines");
  command.example("tanzen stationary himmelblau");
  command.does([arguments, &context] { context.exit_code = find_points(context, *arguments); });
}

} // namespace tanzen::cli
