#include "arguments.hpp"
#include "commands.hpp"
#include "table.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/search/outcome.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <cmath>
#include <memory>
#include <nlohmann/json.hpp>

namespace tanzen::cli {
namespace {

using Json = nlohmann::ordered_json;

std::string dimension_text(const testbed::Dimensions& dimensions) {
  if (dimensions.least == dimensions.most) return std::to_string(dimensions.least);
  if (dimensions.most == testbed::Dimensions::any) return fmt::format("{} or more", dimensions.least);
  return fmt::format("{} to {}", dimensions.least, dimensions.most);
}

std::vector<std::string> trait_words(const testbed::TestFunction& function) {
  std::vector<std::string> words;
  for (const auto trait : function.traits) words.emplace_back(testbed::trait_word(trait));
  return words;
}

void list_problems(const Context& context) {
  Table table;
  table.column("name", Table::Align::left);
  table.column("variables", Table::Align::left);
  table.column("traits", Table::Align::left);
  table.column("what it is", Table::Align::left);
  for (const auto& function : testbed::all()) {
    table.row(
        {function.name, dimension_text(function.dimensions), joined(trait_words(function), ", "), function.title});
  }
  for (const Problem& problem : context.additions.problems) {
    table.row({problem.name(), std::to_string(problem.dimension()), "", problem.title()});
  }
  context.print("{}", table.text());
}

Json function_json(const testbed::TestFunction& function) {
  return {{"name", function.name},
          {"title", function.title},
          {"variables", dimension_text(function.dimensions)},
          {"usual", function.dimensions.usual},
          {"traits", trait_words(function)},
          {"formula", function.formula},
          {"source", function.source}};
}

void list_problems_as_json(const Context& context) {
  Json list = Json::array();
  for (const auto& function : testbed::all()) list.push_back(function_json(function));
  for (const Problem& problem : context.additions.problems) {
    list.push_back(
        {{"name", problem.name()}, {"title", problem.title()}, {"variables", std::to_string(problem.dimension())}});
  }
  context.print("{}\n", list.dump());
}

std::string box_text(const Problem& problem, const Box& box) {
  const bool alike = (box.lower.array() == box.lower[0]).all() && (box.upper.array() == box.upper[0]).all();
  const auto names = problem.variable_names();
  const auto interval = [&](Index i) {
    return fmt::format("{} to {}", number_text(box.lower[i]), number_text(box.upper[i]));
  };
  if (alike) return interval(0) + (problem.dimension() > 1 ? " for each variable" : "");
  constexpr Index most_shown = 10;
  std::vector<std::string> parts;
  for (Index i = 0; i < std::min(problem.dimension(), most_shown); ++i) {
    parts.push_back(fmt::format("{} {}", names[static_cast<std::size_t>(i)], interval(i)));
  }
  if (problem.dimension() > most_shown) parts.emplace_back("...");
  return joined(parts, ", ");
}

void print_problem(const Context& context, const Problem& problem) {
  context.print("  {}, {}, {}\n", problem.name(), counted(problem.dimension(), "variable"),
                problem.sense() == Sense::minimize ? "minimize" : "maximize");
  if (!problem.title().empty()) context.print("  {}\n", problem.title());
  context.print("\n");
  if (!problem.formula().empty()) context.print("{}", block_line("formula", clipped(problem.formula(), 200)));
  context.print("{}", block_line("region", box_text(problem, problem.region())));
  context.print("{}",
                block_line("bounds", problem.bounds().any() ? box_text(problem, problem.bounds().box()) : "none"));
  if (problem.start()) context.print("{}", block_line("start", point_text(*problem.start())));
  for (const KnownMinimum& minimum : problem.known_minima()) {
    context.print("{}", block_line(minimum.global ? "global" : "local",
                                   fmt::format("{} at {}", number_text(minimum.value), point_text(minimum.point, 10))));
  }
  if (!problem.source().empty()) context.print("{}", block_line("source", problem.source()));
}

void print_card(const Context& context, const testbed::TestFunction& function, const Problem& problem) {
  print_problem(context, problem);
  context.print("{}", block_line("formula", function.formula));
  context.print("{}", block_line("traits", joined(trait_words(function), ", ")));
  context.print("{}", block_line("exists for", fmt::format("{} variables", dimension_text(function.dimensions))));
  for (const auto& option : function.options) {
    context.print(
        "{}", block_line("option", fmt::format("{}={}: {}", option.name, number_text(option.usual), option.meaning)));
  }
}

struct ProblemsOptions {
  std::string name;
  ProblemArguments problem;
  bool as_json = false;
};

void show_one(const Context& context, const ProblemsOptions& options) {
  const Problem problem = options.problem.problem(context.additions, options.name);
  const std::string base = options.name.substr(0, options.name.find(':'));
  const auto names = testbed::names();
  const bool is_test_function = std::ranges::find(names, base) != names.end();
  if (options.as_json) {
    Json json = is_test_function ? function_json(testbed::find(base)) : Json::object();
    json["name"] = problem.name();
    json["dimension"] = problem.dimension();
    if (problem.best_known()) json["best_known"] = *problem.best_known();
    Json minima = Json::array();
    for (const auto& minimum : problem.known_minima()) {
      minima.push_back({{"point", std::vector<double>(minimum.point.begin(), minimum.point.end())},
                        {"value", minimum.value},
                        {"global", minimum.global}});
    }
    json["known_minima"] = minima;
    context.print("{}\n", json.dump());
  } else if (is_test_function) {
    print_card(context, testbed::find(base), problem);
  } else {
    print_problem(context, problem);
  }
}

} // namespace

void add_problems(CLI::App& program, Context& context) {
  auto* command = program.add_subcommand("problems", "the testbed: a list, or the card of one problem");
  auto options = std::make_shared<ProblemsOptions>();
  command->add_option("name", options->name, "a test function, with options after a colon: ellipsoid:dim=10")
      ->type_name("NAME");
  options->problem.add_to(*command);
  command->add_flag("--json", options->as_json, "for machines");
  command->footer("Example: tanzen problems himmelblau");
  command->callback([options, &context] {
    if (!options->name.empty() || options->problem.has_formula())
      show_one(context, *options);
    else if (options->as_json)
      list_problems_as_json(context);
    else
      list_problems(context);
  });
}

} // namespace tanzen::cli
