#include "arguments.hpp"
#include "names.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/external/external_program.hpp"
#include "tanzen/files/problem_file.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::cli {
namespace {

constexpr std::int64_t largest = std::int64_t{1} << 53U;

std::int64_t whole_number(const std::string& name, const std::string& text, std::int64_t least,
                          std::int64_t most = largest) {
  const auto number = read_number(text);
  if (!number || *number != std::round(*number) || *number < static_cast<double>(least) ||
      *number > static_cast<double>(most)) {
    const std::string range =
        most == largest ? fmt::format("of at least {}", least) : fmt::format("from {} to {}", least, most);
    throw InputError(fmt::format("{} must be a whole number {}; found '{}'", name, range, clipped(text, 40)));
  }
  return static_cast<std::int64_t>(*number);
}

std::size_t variable_index(std::string_view name, const std::vector<std::string>& variables, std::string_view what) {
  const auto found = std::ranges::find(variables, name);
  if (found == variables.end()) {
    throw InputError(
        fmt::format("{}: there is no variable '{}'{}", what, clipped(name, 40), did_you_mean(name, variables)));
  }
  return static_cast<std::size_t>(found - variables.begin());
}

double number_in(std::string_view text, std::string_view what) {
  const auto number = read_number(text);
  if (!number || std::isnan(*number)) throw InputError(fmt::format("{}: '{}' is no number", what, clipped(text, 40)));
  return *number;
}

/// Fills one side of an interval; what is left out stays open.
void parse_interval(std::string_view text, double& lower, double& upper, bool open, std::string_view what) {
  const std::size_t colon = text.find(':');
  const std::string_view low = trimmed(text.substr(0, colon));
  const std::string_view high = colon == std::string_view::npos ? std::string_view() : trimmed(text.substr(colon + 1));
  if (colon == std::string_view::npos || (!open && (low.empty() || high.empty()))) {
    throw InputError(
        fmt::format("{}: '{}' is no interval; write lower:upper, as in -5:5 or x=-5:5,y=0:2", what, clipped(text, 40)));
  }
  lower = low.empty() ? -infinity : number_in(low, what);
  upper = high.empty() ? infinity : number_in(high, what);
}

} // namespace

void add_number(const Command& command, const std::string& name, std::optional<double>& target, const std::string& help,
                double least) {
  auto read = [&target, name, least](const std::string& text) {
    const auto number = read_number(text);
    if (!number || std::isnan(*number) || *number < least) {
      const std::string range = std::isfinite(least) ? fmt::format(" of at least {}", number_text(least)) : "";
      throw InputError(fmt::format("{} must be a number{}; found '{}'", name, range, clipped(text, 40)));
    }
    target = *number;
  };
  command.reads(name, "NUMBER", help, read);
}

void add_count(const Command& command, const std::string& name, std::optional<std::int64_t>& target,
               const std::string& help, std::int64_t least, std::int64_t most) {
  auto read = [&target, name, least, most](const std::string& text) { target = whole_number(name, text, least, most); };
  command.reads(name, "COUNT", help, read);
}

void add_threads(const Command& command, const std::string& name, std::optional<std::int64_t>& target,
                 const std::string& help) {
  constexpr std::int64_t most = 1024;
  add_count(command, name, target, help, 1, most);
}

void add_seed(const Command& command, std::uint64_t& seed) {
  auto read = [&seed](const std::string& text) { seed = static_cast<std::uint64_t>(whole_number("--seed", text, 0)); };
  command.reads("--seed", "COUNT", "random numbers begin here; the same seed repeats every bit (1)", read);
}

Vector parse_point(std::string_view text, const std::vector<std::string>& variables, std::string_view what) {
  const auto pieces = split(text, ',');
  const auto n = static_cast<Index>(variables.size());
  Vector point = Vector::Constant(n, std::numeric_limits<double>::quiet_NaN());
  if (static_cast<Index>(pieces.size()) != n) {
    throw InputError(fmt::format("{} has {}, but the problem has {}: {}", what,
                                 counted(static_cast<long long>(pieces.size()), "coordinate"), counted(n, "variable"),
                                 clipped(joined(variables, ", "))));
  }
  for (std::size_t k = 0; k < pieces.size(); ++k) {
    const std::size_t equals = pieces[k].find('=');
    const bool is_named = equals != std::string::npos;
    const std::size_t place =
        is_named ? variable_index(trimmed(std::string_view(pieces[k]).substr(0, equals)), variables, what) : k;
    double& coordinate = point[static_cast<Index>(place)];
    if (!std::isnan(coordinate)) throw InputError(fmt::format("{} gives {} twice", what, variables[place]));
    coordinate = number_in(is_named ? std::string_view(pieces[k]).substr(equals + 1) : pieces[k], what);
  }
  return point;
}

Box parse_box(std::string_view text, const std::vector<std::string>& variables, const Box& rest, bool open,
              std::string_view what) {
  Box box = rest;
  const auto set_all = [&](std::string_view interval) {
    double lower = 0, upper = 0;
    parse_interval(interval, lower, upper, open, what);
    box.lower.setConstant(lower);
    box.upper.setConstant(upper);
  };
  if (text.find('=') == std::string_view::npos) {
    set_all(text);
    return box;
  }
  for (const std::string& piece : split(text, ',')) {
    const std::size_t equals = piece.find('=');
    if (equals == std::string::npos) {
      throw InputError(fmt::format("{}: '{}' names no variable; write lower:upper for all, or x=-5:5,y=0:2", what,
                                   clipped(piece, 40)));
    }
    const auto k =
        static_cast<Index>(variable_index(trimmed(std::string_view(piece).substr(0, equals)), variables, what));
    parse_interval(std::string_view(piece).substr(equals + 1), box.lower[k], box.upper[k], open, what);
  }
  return box;
}

void ProblemArguments::add_to(const Command& command) {
  command.takes("--formula", formula_, "TEXT", "a formula in place of a name: \"x^2 + 3*y^2\"");
  command.takes("--program", program_, "COMMAND",
                "a program in place of a name, asked by lines of JSON: \"python3 trial.py\"");
  command.takes("--variables", variables_, "NAMES",
                "the variables of a formula or program, in order: y,x; a vector: x[10]");
  command.takes("--fix", fixed_, "NAME=NUMBER", "a name of the formula that is a fixed number: a=3");
  command.takes("--region", region_, "BOX", "where starts are drawn and pictures taken: -5:5 or x=-5:5,y=0:2");
  command.takes("--bounds", bounds_, "BOX", "hard limits: 0: or x=0:1,y=:5");
  command.flag_either("--maximize", maximize_, "large values are wanted", "--minimize", minimize_,
                      "small values are wanted");
}

ProblemDefinition ProblemArguments::definition_in(const std::string& name) const {
  ProblemDefinition definition = read_definition(name);
  for (const auto& [parameter, value] : parameters()) {
    const auto found = definition.parameters.find(parameter);
    if (found == definition.parameters.end()) {
      std::vector<std::string> known;
      for (const auto& [each, ignored] : definition.parameters) known.push_back(each);
      throw InputError(fmt::format("--fix: {} has no parameter '{}'{}", name, clipped(parameter, 40),
                                   did_you_mean(parameter, known)));
    }
    found->second = value;
  }
  return definition;
}

Problem ProblemArguments::from_file(const Additions& additions, const std::string& name) const {
  const ProblemDefinition definition = definition_in(name);
  try {
    return build_problem(definition, additions.make_program);
  } catch (const InputError& error) {
    throw InputError(fmt::format("{}: {}", name, error.what()));
  }
}

ProblemDefinition ProblemArguments::definition(const Additions& additions, const std::string& name,
                                               const std::filesystem::path& target) const {
  const Problem checked = problem(additions, name);
  if (program_) return program_definition();
  if (formula_ || !name.ends_with(".toml")) return definition_of(checked);
  if (!region_.empty() || !bounds_.empty() || maximize_ || minimize_)
    throw InputError(fmt::format(
        "a file is written back as it is, with --fix at most: change its bounds, region and sense in {}", name));
  ProblemDefinition definition = definition_in(name);
  const std::filesystem::path from = std::filesystem::absolute(name).parent_path();
  const std::filesystem::path to = std::filesystem::absolute(target).parent_path();
  const auto as_seen_there = [&](const std::string& file) {
    const std::string seen = (from / file).lexically_proximate(to).generic_string();
    return seen.find('/') == std::string::npos ? "./" + seen : seen;
  };
  if (definition.fit) definition.fit->data = (from / definition.fit->data).lexically_proximate(to).generic_string();
  if (definition.program && from != to) {
    for (std::string& word : definition.program->command) {
      std::error_code ignored;
      const bool is_file_beside = !word.empty() && std::filesystem::path(word).is_relative() &&
                                  std::filesystem::is_regular_file(from / word, ignored);
      if (is_file_beside) word = as_seen_there(word);
    }
  }
  return definition;
}

std::map<std::string, double> ProblemArguments::parameters() const {
  std::map<std::string, double> parameters;
  for (const std::string& each : fixed_) {
    for (const std::string& piece : split(each, ',')) {
      const std::size_t equals = piece.find('=');
      if (equals == std::string::npos)
        throw InputError(fmt::format("--fix: '{}' gives no value; write a=3", clipped(piece, 40)));
      const std::string name(trimmed(std::string_view(piece).substr(0, equals)));
      parameters[name] = number_in(std::string_view(piece).substr(equals + 1), "--fix");
    }
  }
  return parameters;
}

Problem ProblemArguments::from_formula() const {
  const auto names = variables_.empty() ? std::vector<std::string>() : split(variables_, ',');
  return Problem::from_formula(*formula_, names, parameters());
}

ProblemDefinition ProblemArguments::program_definition() const {
  if (variables_.empty()) throw InputError("a program needs the names of its variables: --variables x,y");
  ProblemDefinition definition{.name = clipped(*program_, 40)};
  for (const std::string& written : split(variables_, ',')) {
    const std::size_t bracket = written.find('[');
    VariableDefinition variable{.name = written.substr(0, bracket)};
    if (bracket != std::string::npos) {
      const auto count = read_number(std::string_view(written).substr(bracket + 1, written.size() - bracket - 2));
      if (!written.ends_with(']') || !count || *count < 1 || *count > 1e6 || *count != std::floor(*count))
        throw InputError(fmt::format("--variables: '{}' is no vector; write x[10]", clipped(written, 40)));
      variable.count = static_cast<Index>(*count);
    }
    definition.variables.push_back(std::move(variable));
  }
  definition.program = ProgramDefinition{.command = command_words(*program_)};
  definition.objectives.emplace_back();
  return definition;
}

Problem ProblemArguments::typed_program() const {
  return build_problem(program_definition(),
                       [](Index dimension, const PartCounts& parts, const ProgramDefinition& program) {
                         return make_external(dimension, parts, program);
                       });
}

std::string constant_note(const Problem& problem) {
  std::vector<std::string> hiding;
  for (const std::string& name : problem.variable_names()) {
    if (name == "e" || name == "pi") hiding.push_back(name);
  }
  if (hiding.empty()) return "";
  return block_line("note", fmt::format("{} {} here, not the {}", joined(hiding, " and "),
                                        hiding.size() == 1 ? "is a variable" : "are variables",
                                        hiding.size() == 1 ? "constant" : "constants"));
}

Problem ProblemArguments::problem(const Additions& additions, const std::string& name) const {
  const bool has_text = formula_.has_value() || program_.has_value();
  const char* text = formula_ ? "formula" : "program";
  if (formula_ && program_) throw InputError("both a formula and a program are given; one is needed");
  if (has_text && !name.empty())
    throw InputError(fmt::format("both a problem ('{}') and a {} are given; one is needed", clipped(name, 40), text));
  if (!has_text && name.empty())
    throw InputError("a problem is needed: a name ('tanzen problems' lists them) or --formula \"x^2 + 3*y^2\"");
  const bool is_file = name.ends_with(".toml");
  if (!formula_ && !is_file && !fixed_.empty())
    throw InputError("--fix gives numbers to the names of a formula; this problem has none");
  if (!has_text && !variables_.empty())
    throw InputError("--variables orders the names of a formula; this problem's are fixed");
  Problem problem = formula_   ? from_formula()
                    : program_ ? typed_program()
                    : is_file  ? from_file(additions, name)
                               : added_or_test_problem(additions, name);
  const auto names = problem.variable_names();
  if (!region_.empty()) {
    const Box box = parse_box(region_, names, problem.region(), false, "--region");
    problem = problem.region(box.lower, box.upper);
  }
  if (!bounds_.empty()) {
    const Box box = parse_box(bounds_, names, problem.bounds().box(), true, "--bounds");
    problem = problem.bounds(box.lower, box.upper);
  }
  if (maximize_) problem = problem.maximized();
  if (minimize_) problem = problem.minimized();
  return problem;
}

void StopArguments::add_to(const Command& command) {
  add_count(command, "--iterations", iterations_, "do exactly so many iterations");
  add_count(command, "--evaluations", evaluations_,
            fmt::format("use at most so many values of the objective ({})", usual_.evaluations.value()));
  add_number(command, "--seconds", seconds_, "take at most so long", 0);
  add_number(command, "--target", target_, "stop when the value is as good as this");
  add_number(command, "--gap", gap_, "stop when the value is this near to the best known", 0);
  add_number(command, "--gradient-tolerance", gradient_tolerance_,
             "converged when the relative gradient is below (1e-8)", 0);
  add_number(command, "--step-tolerance", step_tolerance_,
             "converged when ten steps are below, relative to each variable's size", 0);
  add_number(command, "--feasibility", feasibility_, "how large a violation still counts as feasible (1e-6)", 0);
  command.flag("--stop-on-broken", stop_on_broken_, "an evaluation that breaks down ends the run");
  add_number(command, "--value-tolerance", value_tolerance_,
             "converged when ten values agree to this, relative to them", 0);
}

StopRules StopArguments::rules() const {
  StopRules rules = usual_;
  if (iterations_) {
    rules.iterations = iterations_;
    rules.gradient_tolerance.reset();
  }
  if (evaluations_) rules.evaluations = evaluations_;
  rules.seconds = seconds_;
  rules.target = target_;
  rules.gap = gap_;
  if (gradient_tolerance_) rules.gradient_tolerance = gradient_tolerance_;
  rules.step_tolerance = step_tolerance_;
  rules.value_tolerance = value_tolerance_;
  if (feasibility_) rules.feasibility = *feasibility_;
  rules.stop_on_broken = stop_on_broken_;
  return rules;
}

StopRules StopArguments::rules_for(const Problem& problem) const {
  constexpr std::int64_t usual_for_fronts = 25'000;
  StopRules stop = rules();
  const bool has_limit = iterations_ || evaluations_ || seconds_;
  if (problem.objectives().size() > 1 && !has_limit) stop.evaluations = usual_for_fronts;
  return stop;
}

void add_derivative(const Command& command, DerivativeMode& mode) {
  auto read = [&mode](const std::string& text) {
    const std::vector<std::string> words{"exact", "forward", "central"};
    if (text == "exact")
      mode = DerivativeMode::exact;
    else if (text == "forward")
      mode = DerivativeMode::forward;
    else if (text == "central")
      mode = DerivativeMode::central;
    else
      throw InputError(fmt::format("--derivative must be one of exact, forward, central; found '{}'{}",
                                   clipped(text, 40), did_you_mean(text, words)));
  };
  command.reads("--derivative", "KIND", "exact, or by forward or central differences", read);
}

} // namespace tanzen::cli
