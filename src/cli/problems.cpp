#include "arguments.hpp"
#include "commands.hpp"
#include "names.hpp"
#include "tanzen/report/table.hpp"

#include "tanzen/analysis/point_kind.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/problem_file.hpp"
#include "tanzen/files/table_file.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/search/outcome.hpp"
#include "tanzen/search/point_check.hpp"
#include "tanzen/testbed/proved_values.hpp"
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

/// Which functions a list shows.
struct Filter {
  std::vector<std::string> traits;
  std::optional<std::int64_t> dimension;
  std::string name_part;

  [[nodiscard]] bool takes(const testbed::TestFunction& function) const {
    const auto words = trait_words(function);
    const auto has = [&](const std::string& trait) { return std::ranges::find(words, trait) != words.end(); };
    const auto& [least, most, usual, multiple_of] = function.dimensions;
    const bool has_dimension =
        !dimension || (*dimension >= least && *dimension <= most && *dimension % multiple_of == 0);
    return std::ranges::all_of(traits, has) && has_dimension && function.name.find(name_part) != std::string::npos;
  }

  /// A program's own problem has no traits.
  [[nodiscard]] bool takes(const Problem& problem) const {
    return traits.empty() && dimension.value_or(problem.dimension()) == problem.dimension() &&
           problem.name().find(name_part) != std::string::npos;
  }

  void check() const {
    std::vector<std::string> known;
    for (int k = 0; k <= static_cast<int>(testbed::Trait::several_objectives); ++k) {
      known.emplace_back(testbed::trait_word(static_cast<testbed::Trait>(k)));
    }
    for (const std::string& trait : traits) {
      if (testbed::trait_from_word(trait)) continue;
      throw InputError(fmt::format("there is no trait '{}' (there are {}){}", clipped(trait, 40), joined(known, ", "),
                                   did_you_mean(trait, known)));
    }
  }
};

void list_problems(const Context& context, const Filter& filter) {
  Table table;
  for (const char* heading : {"name", "variables", "traits", "what it is"}) table.column(heading, Table::Align::left);
  for (const auto& function : testbed::all()) {
    if (!filter.takes(function)) continue;
    table.row(
        {function.name, dimension_text(function.dimensions), joined(trait_words(function), ", "), function.title});
  }
  for (const Problem& problem : context.additions.problems) {
    if (!filter.takes(problem)) continue;
    table.row({problem.name(), std::to_string(problem.dimension()), "", problem.title()});
  }
  if (table.empty())
    context.print("  no problem fits\n");
  else
    context.print("{}", table.text(context.width));
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

void list_problems_as_json(const Context& context, const Filter& filter) {
  Json list = Json::array();
  for (const auto& function : testbed::all()) {
    if (filter.takes(function)) list.push_back(function_json(function));
  }
  for (const Problem& problem : context.additions.problems) {
    if (!filter.takes(problem)) continue;
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

/// The objectives after the first, and the true front of all where it is known.
void print_objectives(const Context& context, const Problem& problem) {
  for (std::size_t k = 1; k < problem.objectives().size(); ++k) {
    const Objective& objective = problem.objectives()[k];
    if (objective.text.empty()) continue; // the formula tells of all of them
    context.print("{}",
                  block_line("objective", fmt::format("{}: {} {}", objective.name,
                                                      objective.sense == Sense::minimize ? "minimize" : "maximize",
                                                      clipped(objective.text, 160))));
  }
  const auto& front = problem.known_front();
  if (problem.objectives().size() < 2) return;
  context.print("{}", block_line("front", front ? front->stated : "not known"));
  if (!front) return;
  context.print("{}", block_line("ideal", point_text(front->ideal)));
  context.print("{}", block_line("nadir", point_text(front->nadir)));
}

void print_problem(const Context& context, const Problem& problem) {
  context.print("  {}\n", to_text(problem));
  context.print("{}", constant_note(problem));
  if (!problem.title().empty()) context.print("  {}\n", problem.title());
  context.print("\n");
  if (!problem.formula().empty()) context.print("{}", block_line("formula", clipped(problem.formula(), 200)));
  context.print("{}", block_line("region", box_text(problem, problem.region())));
  context.print("{}",
                block_line("bounds", problem.bounds().any() ? box_text(problem, problem.bounds().box()) : "none"));
  print_objectives(context, problem);
  for (const Constraint& constraint : problem.constraints()) {
    if (constraint.text.empty()) continue; // likewise
    context.print("{}", block_line("constraint", fmt::format("{}: {}", constraint.name, constraint.text)));
  }
  if (const Index residuals = problem.parts().residuals; residuals > 0) {
    const auto* sum = dynamic_cast<const LossSum*>(problem.scalarization().get());
    const std::string loss = sum == nullptr ? "squares" : sum->loss().text();
    context.print("{}", block_line("residuals", fmt::format("{}, summed by the loss {}", residuals, loss)));
  }
  if (problem.start()) context.print("{}", block_line("start", point_text(*problem.start())));
  for (const KnownMinimum& minimum : problem.known_minima()) {
    context.print("{}", block_line(minimum.global ? "global" : "local",
                                   fmt::format("{} at {}", number_text(minimum.value), point_text(minimum.point, 10))));
  }
  if (problem.known_minima().empty() && problem.best_known()) {
    context.print(
        "{}", block_line("global", fmt::format("{}; no point of it is stated", number_text(*problem.best_known()))));
  }
  if (!problem.source().empty()) context.print("{}", block_line("source", problem.source()));
}

void print_card(const Context& context, const testbed::TestFunction& function, const Problem& problem) {
  print_problem(context, problem);
  context.print("{}", block_line("formula", function.formula));
  if (const testbed::ProvedValue* proved = testbed::proved_value(problem.name())) {
    context.print(
        "{}", block_line("proved", fmt::format("the best value in its region lies from {} to {}",
                                               number_at_most(proved->lower, 15), number_at_least(proved->upper, 15))));
  }
  context.print("{}", block_line("traits", joined(trait_words(function), ", ")));
  context.print("{}", block_line("exists for", fmt::format("{} variables", dimension_text(function.dimensions))));
  for (const auto* options : {&function.options, &testbed::common_options()}) {
    for (const auto& option : *options) {
      const std::string setting = fmt::format("{}={}", option.name, number_text(option.usual));
      context.print("{}", block_line("option", fmt::format("{:<18} {}", setting, option.meaning)));
    }
  }
}

struct ProblemsOptions {
  std::string name;
  ProblemArguments problem;
  Filter filter;
  std::string at;
  std::string write;
  bool as_json = false;
};

std::string kind_text(PointKind kind, bool is_stationary) {
  const std::string word(point_kind_word(kind));
  if (kind == PointKind::on_bounds)
    return is_stationary ? "stationary, on the bounds" : "not stationary, on the bounds";
  if (is_stationary) return "stationary: " + word;
  if (kind == PointKind::degenerate) return "not stationary; the curvature is degenerate";
  return "not stationary; the curvature is that of a " + word;
}

/// Other objectives, and constraints with what they miss or have to spare.
void print_parts(const Context& context, const Problem& problem, const Vector& point) {
  Vector parts;
  problem.bundle()->worker()->outputs(point, parts);
  for (std::size_t k = 1; k < problem.objectives().size(); ++k)
    context.print("{}", block_line(problem.objectives()[k].name, short_number(parts[static_cast<Index>(k)], 12)));
  if (problem.constraints().empty()) return;
  Outcome shown;
  shown.sense = problem.sense();
  shown.checked = check_point(problem, point);
  context.print("\n{}\n", constraints_text(shown));
}

/// Value, gradient, Hessian, eigenvalues and kind of one point.
void print_point(const Context& context, const Problem& problem, const Vector& point) {
  context.print("\n{}", block_line("at", point_text(point, 10)));
  const double value = problem.value(point);
  context.print("{}", block_line("value", std::isfinite(value) ? short_number(value, 12)
                                                               : "none: outside the function's domain"));
  print_parts(context, problem, point);
  if (problem.objective().derivatives() == Derivatives::none) return;
  const Vector gradient = problem.gradient(point);
  context.print("{}", block_line("gradient", fmt::format("{}  norm {}", point_text(gradient, 8),
                                                         short_number(gradient.norm(), 6))));
  if (problem.dimension() <= 6) {
    const Matrix hessian = problem.hessian(point);
    for (Index i = 0; i < hessian.rows(); ++i) {
      context.print("{}", block_line(i == 0 ? "Hessian" : "", point_text(hessian.row(i).transpose(), 8)));
    }
  }
  const auto curvature = curvature_at(problem, point);
  if (!curvature) return;
  context.print("{}", block_line("eigenvalues", point_text(curvature->eigenvalues, 8)));
  const PointCheck checked = check_point(problem, point);
  const bool is_stationary = checked.verdict == PointCheck::Verdict::stationary;
  context.print("{}", block_line("kind", problem.constraints().empty() ? kind_text(curvature->kind, is_stationary)
                                                                       : checked.how));
}

Json numbers_or_null(const Vector& values) {
  Json list = Json::array();
  for (const double value : values) list.push_back(std::isfinite(value) ? Json(value) : Json(nullptr));
  return list;
}

/// The same as `print_point`, for machines.
Json point_json(const Problem& problem, const Vector& point) {
  Vector parts;
  problem.bundle()->worker()->outputs(point, parts);
  const double value = problem.value(point);
  const PointCheck checked = check_point(problem, point);
  Json json{{"point", numbers_or_null(point)},
            {"value", std::isfinite(value) ? Json(value) : Json(nullptr)},
            {"objectives", numbers_or_null(parts.head(problem.parts().objectives))},
            {"constraints", numbers_or_null(parts.segment(problem.parts().objectives, problem.parts().constraints))},
            {"violation", problem.violation(point)},
            {"stationary", checked.verdict == PointCheck::Verdict::stationary},
            {"how", checked.how}};
  if (problem.objective().derivatives() != Derivatives::none)
    json["gradient"] = numbers_or_null(problem.gradient(point));
  if (const auto curvature = curvature_at(problem, point)) {
    json["eigenvalues"] = numbers_or_null(curvature->eigenvalues);
    json["kind"] = point_kind_word(curvature->kind);
  }
  return json;
}

void show_one(const Context& context, const ProblemsOptions& options) {
  const Problem problem = options.problem.problem(context.additions, options.name);
  std::optional<Vector> at;
  if (!options.at.empty()) at = parse_point(options.at, problem.variable_names(), "--at");
  // What cannot be written is refused before anything is shown.
  std::optional<ProblemDefinition> definition;
  if (!options.write.empty()) definition = options.problem.definition(context.additions, options.name, options.write);
  const std::string written = definition ? definition_to_toml(*definition) : "";
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
    if (at) json["at"] = point_json(problem, *at);
    context.print("{}\n", json.dump());
  } else if (is_test_function) {
    print_card(context, testbed::find(base), problem);
  } else {
    print_problem(context, problem);
  }
  if (at && !options.as_json) print_point(context, problem, *at);
  if (!options.write.empty()) {
    // The table of a fit of the testbed is in no file yet.
    if (definition->fit && is_test_function)
      write_file(std::filesystem::path(options.write).parent_path() / definition->fit->data,
                 table_to_csv(*definition->fit->table));
    write_file(options.write, written);
    if (!options.as_json) context.print("\n{}", block_line("written", options.write));
  }
}

} // namespace

void add_problems(const Command& command, Context& context) {
  auto options = std::make_shared<ProblemsOptions>();
  command.takes("name", options->name, "NAME", "a test function, with options after a colon: ellipsoid:dim=10");
  options->problem.add_to(command);
  command.takes("--trait", options->filter.traits, "WORD", "list those with this trait only; several times");
  add_count(command, "--dimension", options->filter.dimension, "list those that exist for so many variables");
  command.takes("--like", options->filter.name_part, "TEXT", "list those with this in their names");
  command.takes("--at", options->at, "POINT", "value, gradient, Hessian and kind of a point: 2.5,-1 or y=-1,x=2.5");
  command.takes("--write", options->write, "FILE.toml", "write it as a problem file");
  command.flag("--json", options->as_json, "for machines");
  command.example("tanzen problems himmelblau");
  command.does([options, &context] {
    options->filter.check();
    if (!options->write.empty() && !options->write.ends_with(".toml"))
      throw InputError(fmt::format("--write: a problem file ends in .toml; found '{}'", clipped(options->write, 60)));
    if (!options->name.empty() || options->problem.has_formula())
      show_one(context, *options);
    else if (options->as_json)
      list_problems_as_json(context, options->filter);
    else
      list_problems(context, options->filter);
  });
}

} // namespace tanzen::cli
