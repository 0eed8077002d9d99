#include "arguments.hpp"
#include "commands.hpp"
#include "fit_report.hpp"
#include "interrupt.hpp"
#include "pictures.hpp"

#include "tanzen/analysis/fit_intervals.hpp"
#include "tanzen/analysis/fit_statistics.hpp"
#include "tanzen/analysis/fitting.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/expression/formula.hpp"
#include "tanzen/figure/fit_figure.hpp"
#include "tanzen/files/problem_file.hpp"
#include "tanzen/files/table_file.hpp"
#include "tanzen/files/write_file.hpp"

#include <algorithm>
#include <cmath>
#include <memory>
#include <set>

namespace tanzen::cli {
namespace {

struct FitArguments {
  std::string table, columns, from, bounds, loss = "squares", intervals, with, write;
  PictureArguments pictures;
  std::vector<std::string> models, errors, weights, fixed, at;
  std::optional<std::int64_t> starts;
  std::uint64_t seed = 1;
  bool as_json = false;
};

/// The names in a formula.
std::vector<std::string> names_in(const std::string& text) {
  std::vector<std::string> names;
  const Formula formula = Formula::parse(text);
  std::vector<VariableName> all;
  try {
    all = formula.variables({});
  } catch (const TextError&) {
    return names; // numbers alone
  }
  for (const VariableName& each : all) {
    if (each.count) throw TextError(fmt::format("{} is no column and no parameter", each.name), text, 0);
    names.push_back(each.name);
  }
  return names;
}

/// The names on both sides of a model.
std::vector<std::string> names_of_model(const std::string& model) {
  const auto sides = split(model, '=');
  if (sides.size() != 2)
    throw TextError("a model is an equation: write column = formula of columns and parameters", model, 0);
  std::vector<std::string> names = names_in(sides[0]);
  std::ranges::copy(names_in(sides[1]), std::back_inserter(names));
  return names;
}

/// `a=3,b=4` as names with numbers; `what` is the option.
std::vector<std::pair<std::string, double>> numbers_by_name(const std::string& text, std::string_view what) {
  std::vector<std::pair<std::string, double>> numbers;
  for (const std::string& piece : split(text, ',')) {
    const std::size_t equals = piece.find('=');
    const auto value = equals == std::string::npos ? std::nullopt : read_number(trimmed(piece.substr(equals + 1)));
    if (!value || !std::isfinite(*value))
      throw InputError(fmt::format("{}: '{}' is no name with a number; write rate=0.01", what, clipped(piece, 40)));
    numbers.emplace_back(trimmed(piece.substr(0, equals)), *value);
  }
  return numbers;
}

class Fitter {
 public:
  Fitter(const Context& context, const FitArguments& arguments)
      : context_(context), arguments_(arguments), names_(table_columns(arguments.table, given_columns())) {
    if (arguments.models.empty())
      throw InputError("a model is needed: --model \"celsius = room + (peak - room)*exp(-rate*minutes)\"");
    arguments.pictures.check({{"--write", arguments.write}});
    if (!arguments.write.empty() && !arguments.write.ends_with(".toml"))
      throw InputError(
          fmt::format("--write makes a problem file: a name that ends in .toml; found '{}'", arguments.write));
    const std::vector<std::string> kinds{"linearized", "profile", "bootstrap"};
    if (!arguments.intervals.empty() && std::ranges::find(kinds, arguments.intervals) == kinds.end())
      throw InputError(fmt::format("--intervals are linearized, profile or bootstrap; found '{}'{}",
                                   clipped(arguments.intervals, 40), did_you_mean(arguments.intervals, kinds)));
    define();
  }

  int fit_all() {
    const Problem problem = built();
    const std::string name = arguments_.with.empty() ? "levenberg-marquardt" : arguments_.with;
    const Method method = context_.additions.methods.parse(name);
    check_able(method, problem);
    FitOptions options{.estimate_scale = estimates_scale_, .run = {.seed = arguments_.seed}};
    // Two that agree are worth more than one; of a table so long that one takes seconds, one is enough.
    constexpr Index most_rows = 100'000;
    if (arguments_.with.empty() && !problem.linear_variables().empty() &&
        definition_.fit->table->rows.rows() <= most_rows)
      options.second = context_.additions.methods.parse("variable-projection");
    if (!arguments_.from.empty()) options.start = parse_point(arguments_.from, problem.variable_names(), "--from");
    if (arguments_.starts) options.starts = *arguments_.starts;
    options.run.trace.points = true;
    options.run.asked_to_stop = InterruptGuard::is_asked;
    const InterruptGuard guard;
    const Fit made = fit(problem, method, options);
    FitStatistics statistics = fit_statistics(made.problem, made.outcome.point);
    const std::string how = replace_intervals(made, method, statistics);
    const std::vector<AtPoint> predictions = predicted(made.problem, statistics);
    if (arguments_.as_json)
      context_.print("{}\n", fit_json(made, statistics, predictions, how));
    else
      context_.print("{}", fit_text(made, statistics, predictions, how, context_.width));
    write_files(made, statistics);
    return made.outcome.converged() ? 0 : made.outcome.status == Status::failed ? 3 : 1;
  }

 private:
  [[nodiscard]] std::vector<std::string> given_columns() const {
    return arguments_.columns.empty() ? std::vector<std::string>() : split(arguments_.columns, ',');
  }

  /// What the models' names are: columns of the table, fixed numbers, and the rest, which are parameters.
  void define() {
    std::set<std::string> parameters, used;
    for (const std::string& each : arguments_.fixed)
      for (const auto& [name, value] : numbers_by_name(each, "--fix")) definition_.parameters[name] = value;
    FitDefinition data{.data = arguments_.table};
    for (const std::string& model : arguments_.models) {
      data.equations.push_back({.model = model});
      for (const std::string& name : names_of_model(model)) {
        if (std::ranges::find(names_, name) != names_.end())
          used.insert(name);
        else if (!definition_.parameters.contains(name))
          parameters.insert(name);
      }
    }
    if (used.empty())
      throw InputError(
          fmt::format("the model names no column of {}, which has {}", arguments_.table, joined(names_, ", ")));
    if (parameters.empty()) throw InputError("the model has no parameter: every name in it is a column, or fixed");
    std::vector<std::string> ordered(parameters.begin(), parameters.end());
    std::ranges::sort(ordered, natural_less);
    for (const std::string& name : ordered) definition_.variables.push_back({.name = name});
    spread(arguments_.errors, "--errors", data, &FitEquation::errors, used);
    spread(arguments_.weights, "--weights", data, &FitEquation::weights, used);
    data.loss = parsed_loss();
    data.table = std::make_shared<DataTable>(read_table(arguments_.table, {.columns = given_columns(), .only = used}));
    definition_.fit = std::move(data);
    definition_.name = std::filesystem::path(arguments_.table).stem().string();
  }

  /// One text for all equations, or one each; the columns that they name are used.
  void spread(const std::vector<std::string>& texts, std::string_view option, FitDefinition& fit,
              std::string FitEquation::*part, std::set<std::string>& used) const {
    if (texts.size() > 1 && texts.size() != fit.equations.size())
      throw InputError(fmt::format("{} is there {} times for {}: give it once, or once for each", option, texts.size(),
                                   counted(static_cast<long long>(fit.equations.size()), "model")));
    for (std::size_t k = 0; k < fit.equations.size() && !texts.empty(); ++k)
      fit.equations[k].*part = texts[texts.size() == 1 ? 0 : k];
    const DataTable known{.columns = names_};
    for (const std::string& text : texts) {
      for (const std::string& name : names_in(text)) {
        (void)known.column(name);
        used.insert(name);
      }
    }
  }

  /// `huber` alone asks for its scale to be estimated.
  Loss parsed_loss() {
    const Loss loss = Loss::parse(arguments_.loss);
    estimates_scale_ = loss.kind != Loss::Kind::squares && arguments_.loss.find(':') == std::string::npos;
    return loss;
  }

  [[nodiscard]] Problem built() {
    Problem problem = build_problem(definition_);
    if (arguments_.bounds.empty()) return problem;
    const Bounds& open = problem.bounds();
    const Box box =
        parse_box(arguments_.bounds, problem.variable_names(), {open.lower(), open.upper()}, true, "--bounds");
    for (Index i = 0; i < problem.dimension(); ++i) {
      VariableDefinition& variable = definition_.variables[static_cast<std::size_t>(i)];
      if (std::isfinite(box.lower[i])) variable.lower = box.lower[i];
      if (std::isfinite(box.upper[i])) variable.upper = box.upper[i];
    }
    return build_problem(definition_);
  }

  /// By `--intervals`; what they are called.
  std::string replace_intervals(const Fit& made, const Method& by, FitStatistics& statistics) const {
    if (arguments_.intervals.empty() || arguments_.intervals == "linearized") return "linearized";
    const std::vector<ParameterInterval> intervals = arguments_.intervals == "profile"
                                                         ? profile_intervals(made, by)
                                                         : bootstrap_intervals(made, by, {.seed = arguments_.seed});
    for (std::size_t i = 0; i < intervals.size(); ++i) {
      statistics.parameters[i].lower = intervals[i].lower;
      statistics.parameters[i].upper = intervals[i].upper;
    }
    return arguments_.intervals;
  }

  [[nodiscard]] std::vector<AtPoint> predicted(const Problem& problem, const FitStatistics& statistics) const {
    std::vector<AtPoint> all;
    const DataTable& table = *definition_.fit->table;
    const auto& equations = definition_.fit->equations;
    for (const std::string& text : arguments_.at) {
      Vector columns = Vector::Zero(static_cast<Index>(table.columns.size()));
      for (const auto& [name, value] : numbers_by_name(text, "--at")) columns[table.column(name)] = value;
      for (std::size_t k = 0; k < equations.size(); ++k)
        all.push_back({text, split(equations[k].model, '=').front(),
                       predict(problem, statistics, columns, static_cast<Index>(k))});
    }
    return all;
  }

  void write_files(const Fit& made, const FitStatistics& statistics) {
    if (!arguments_.write.empty()) write_fitted(made);
    arguments_.pictures.write(
        context_, fmt::format("A fit to {}", arguments_.table), [&] { return fit_figure(made, statistics); },
        arguments_.as_json);
  }

  void write_fitted(const Fit& made) {
    ProblemDefinition fitted = definition_;
    for (std::size_t i = 0; i < fitted.variables.size(); ++i)
      fitted.variables[i].start = {made.outcome.point[static_cast<Index>(i)]};
    const auto data = std::filesystem::absolute(arguments_.table);
    fitted.fit->data =
        data.lexically_proximate(std::filesystem::absolute(arguments_.write).parent_path()).generic_string();
    fitted.fit->loss = dynamic_cast<const LossSum&>(*made.problem.scalarization()).loss();
    write_file(arguments_.write, definition_to_toml(fitted));
    if (!arguments_.as_json) context_.print("{}", block_line("written", arguments_.write));
  }

  const Context& context_;
  const FitArguments& arguments_;
  std::vector<std::string> names_; ///< of the table's columns
  ProblemDefinition definition_;
  bool estimates_scale_ = false;
};

} // namespace

void add_fit(const Command& command, Context& context) {
  auto arguments = std::make_shared<FitArguments>();
  command.needs("table", arguments->table, "TABLE", "a file of numbers in columns, named in its first line");
  command.takes("--model", arguments->models, "EQUATION",
                "a column and a formula of columns and parameters; again for another column");
  command.takes("--columns", arguments->columns, "NAMES", "names of the columns, where the file has none: x,y");
  command.takes("--from", arguments->from, "POINT", "where the parameters begin: room=20,rate=0.01 (searched for)");
  command.takes("--bounds", arguments->bounds, "BOX", "limits of parameters: rate=0:1,room=0:");
  command.takes("--fix", arguments->fixed, "NAME=NUMBER", "a name of the model that is a fixed number: room=20");
  command.takes("--loss", arguments->loss, "LOSS",
                "squares, huber, cauchy, absolute or tukey; huber:1.5 has its scale, huber estimates it");
  command.takes("--errors", arguments->errors, "FORMULA",
                "what residuals are divided by: a number, a column, 0.02*celsius; once, or for each model");
  command.takes("--weights", arguments->weights, "FORMULA",
                "what squares are multiplied by, instead of errors; 0 leaves a row out");
  command.takes("--intervals", arguments->intervals, "KIND",
                "linearized, profile or bootstrap: how intervals are found (linearized)");
  add_count(command, "--starts", arguments->starts, "search for the start among so many points");
  command.takes("--with", arguments->with, "METHOD",
                "one method alone (levenberg-marquardt, and variable-projection beside it)");
  add_seed(command, arguments->seed);
  command.takes("--at", arguments->at, "VALUES", "what the model says at minutes=100, with its interval");
  arguments->pictures.add_to(command, "data, curve and residuals");
  command.takes("--write", arguments->write, "FILE", "write the fitted model as a problem file (.toml)");
  command.flag("--json", arguments->as_json, "one object for machines");
  command.example("tanzen fit examples/cooling.csv --model \"celsius = room + (peak - room)*exp(-rate*minutes)\"");
  command.does([arguments, &context] { context.exit_code = Fitter(context, *arguments).fit_all(); });
}

} // namespace tanzen::cli
