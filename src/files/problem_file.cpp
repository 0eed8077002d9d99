#include "tanzen/files/problem_file.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/table_file.hpp"
#include "tanzen/files/write_file.hpp"

#include "toml_text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

using namespace files;

/// `minimize a + b`: a sense, and where there are formulas a formula.
Objective read_objective(const std::string& name, const toml::node& node) {
  const std::string text = text_in(node, fmt::format("the objective {}", name));
  for (const auto& [word, sense] : {std::pair{"minimize", Sense::minimize}, std::pair{"maximize", Sense::maximize}}) {
    if (!text.starts_with(word)) continue;
    const std::string_view rest = std::string_view(text).substr(std::string_view(word).size());
    if (rest.empty() || rest.front() == ' ') return {name, sense, std::string(trimmed(rest))};
  }
  fail(node, fmt::format("the objective {} must begin with minimize or maximize, as in \"minimize x^2 + y\"", name));
}

void read_head(const toml::table& head, ProblemDefinition& definition) {
  check_keys(head, "[problem]", {"name", "title", "minimize", "maximize", "objectives"});
  if (head.contains("name")) definition.name = line_in(*head.get("name"), "the name");
  if (head.contains("title")) definition.title = line_in(*head.get("title"), "the title");
  int given = 0;
  for (const auto& [key, sense] : {std::pair{"minimize", Sense::minimize}, std::pair{"maximize", Sense::maximize}}) {
    if (!head.contains(key)) continue;
    ++given;
    definition.objectives = {{.sense = sense, .text = text_in(*head.get(key), key)}};
  }
  if (const auto* several = head.get("objectives")) {
    ++given;
    if (!several->is_table())
      fail(*several, "objectives are a table: objectives = { loss = \"minimize ...\", output = \"maximize ...\" }");
    for (const auto& [name, node] : in_order(*several->as_table()))
      definition.objectives.push_back(read_objective(name, *node));
  }
  if (given > 1) fail(head, "only one of minimize, maximize and objectives can be given");
}

VariableDefinition read_variable(const std::string& name, const toml::node& node) {
  VariableDefinition variable{.name = name};
  const auto& table = table_in(node, fmt::format("the variable {}", name));
  check_keys(table, fmt::format("the variable {}", name),
             {"count", "start", "lower", "upper", "region", "unit", "scale"});
  if (const auto* count = table.get("count")) {
    const double number = number_in(*count, "the count");
    if (number < 1 || number != std::round(number) || number > 1e6)
      fail(*count, fmt::format("the count of {} must be a whole number from 1 to 1000000", name));
    variable.count = static_cast<Index>(number);
  }
  if (const auto* start = table.get("start")) variable.start = numbers_in(*start, fmt::format("the start of {}", name));
  if (const auto* lower = table.get("lower"))
    variable.lower = number_in(*lower, fmt::format("the lower bound of {}", name));
  if (const auto* upper = table.get("upper"))
    variable.upper = number_in(*upper, fmt::format("the upper bound of {}", name));
  if (const auto* region = table.get("region")) {
    const auto ends = numbers_in(*region, fmt::format("the region of {}", name));
    if (ends.size() != 2 || !(ends[0] < ends[1]))
      fail(*region, fmt::format("the region of {} needs its two ends, the lower first: [-5, 5]", name));
    variable.region = {ends[0], ends[1]};
  }
  if (const auto* unit = table.get("unit")) variable.unit = line_in(*unit, fmt::format("the unit of {}", name));
  if (const auto* scale = table.get("scale")) variable.scale = number_in(*scale, fmt::format("the scale of {}", name));
  return variable;
}

/// A text, or a list of them, one an equation.
std::vector<std::string> texts_in(const toml::table& table, const char* key) {
  const auto* node = table.get(key);
  std::vector<std::string> texts;
  const auto add = [&](const toml::node& each) {
    texts.push_back(each.is_string() ? text_in(each, key) : number_text(number_in(each, key)));
  };
  if (node == nullptr) return texts;
  if (!node->is_array()) {
    add(*node);
    return texts;
  }
  for (const auto& each : *node->as_array()) add(each);
  return texts;
}

FitDefinition read_fit(const toml::table& table, const std::filesystem::path& folder) {
  check_keys(table, "[fit]", {"data", "residual", "model", "errors", "weights", "loss"});
  if (!table.contains("data") || table.contains("residual") == table.contains("model"))
    fail(table, "[fit] needs data = \"table.csv\" and model = \"column = ...\", or residual = \"...\"");
  FitDefinition fit{.data = line_in(*table.get("data"), "data")};
  for (const std::string& model : texts_in(table, "model")) fit.equations.push_back({.model = model});
  for (const std::string& residual : texts_in(table, "residual")) fit.equations.push_back({.residual = residual});
  // One for all equations, or one each.
  const auto spread = [&](const char* key, std::string FitEquation::*target) {
    const std::vector<std::string> texts = texts_in(table, key);
    if (texts.size() > 1 && texts.size() != fit.equations.size())
      fail(*table.get(key), fmt::format("{} {} for {}: give one, or one each", texts.size(), key,
                                        counted(static_cast<long long>(fit.equations.size()), "equation")));
    for (std::size_t k = 0; k < fit.equations.size() && !texts.empty(); ++k)
      fit.equations[k].*target = texts[texts.size() == 1 ? 0 : k];
  };
  spread("errors", &FitEquation::errors);
  spread("weights", &FitEquation::weights);
  if (const auto* loss = table.get("loss")) {
    try {
      fit.loss = Loss::parse(text_in(*loss, "loss"));
    } catch (const InputError& error) {
      fail(*loss, error.what());
    }
  }
  // The file says which: a pipe or a device would be waited for.
  std::error_code ignored;
  if (std::filesystem::exists(folder / fit.data, ignored) &&
      !std::filesystem::is_regular_file(folder / fit.data, ignored))
    fail(*table.get("data"), fmt::format("the data must be a file; {} is none", fit.data));
  fit.table = std::make_shared<const DataTable>(read_table(folder / fit.data));
  return fit;
}

void read_program(const toml::table& table, const std::filesystem::path& folder, ProblemDefinition& definition) {
  check_keys(table, "[program]", {"command", "timeout", "copies", "restarts", "residuals", "maximize"});
  const auto* command = table.get("command");
  if (command == nullptr || !command->is_array())
    fail(table, "[program] needs its command as a list: command = [\"python3\", \"trial.py\"]");
  ProgramDefinition program{.command = {}, .folder = folder.string()};
  for (const auto& word : *command->as_array()) program.command.push_back(text_in(word, "a word of the command"));
  if (const auto* timeout = table.get("timeout")) program.timeout = number_in(*timeout, "the timeout");
  const auto count = [&](const char* key, Index& target) {
    const auto* node = table.get(key);
    if (node == nullptr) return;
    const double number = number_in(*node, fmt::format("the number of {}", key));
    if (number < 0 || number != std::round(number) || number > 1e9)
      fail(*node, fmt::format("{} must be a whole number", key));
    target = static_cast<Index>(number);
  };
  count("copies", program.copies);
  count("restarts", program.restarts);
  count("residuals", program.residuals);
  if (definition.objectives.empty() && program.residuals == 0) definition.objectives.emplace_back();
  if (const auto* maximize = table.get("maximize"); maximize != nullptr && maximize->value_or(false)) {
    if (definition.objectives.size() != 1) fail(table, "maximize = true is for a program with one objective");
    definition.objectives.front().sense = Sense::maximize;
  }
  definition.program = std::move(program);
}

KnownMinimum read_minimum(const toml::node& node) {
  const auto& table = table_in(node, "a known minimum");
  check_keys(table, "a known minimum", {"point", "value", "global"});
  if (!table.contains("point") || !table.contains("value")) fail(node, "a known minimum needs its point and its value");
  KnownMinimum minimum{Coordinates(numbers_in(*table.get("point"), "the point")).vector(),
                       number_in(*table.get("value"), "the value"), true};
  if (const auto* global = table.get("global")) minimum.global = global->value_or(true);
  return minimum;
}

ProblemDefinition definition_in(const toml::table& root, const std::filesystem::path& folder) {
  check_keys(root, "a problem file",
             {"problem", "variables", "parameters", "terms", "constraints", "minima", "fit", "program"});
  ProblemDefinition definition;
  const auto each = [&](const char* section, auto&& read) {
    if (const auto* node = root.get(section)) {
      for (const auto& [name, entry] : in_order(table_in(*node, fmt::format("[{}]", section)))) read(name, *entry);
    }
  };
  if (const auto* head = root.get("problem")) read_head(table_in(*head, "[problem]"), definition);
  each("variables", [&](const std::string& name, const toml::node& node) {
    definition.variables.push_back(read_variable(name, node));
  });
  each("parameters", [&](const std::string& name, const toml::node& node) {
    definition.parameters[name] = number_in(node, fmt::format("the parameter {}", name));
  });
  each("terms", [&](const std::string& name, const toml::node& node) {
    definition.terms.push_back({name, text_in(node, fmt::format("the term {}", name))});
  });
  each("constraints", [&](const std::string& name, const toml::node& node) {
    definition.constraints.push_back({name, text_in(node, fmt::format("the constraint {}", name))});
  });
  if (const auto* minima = root.get("minima")) {
    if (!minima->is_array()) fail(*minima, "minima must be a list: minima = [{ point = [1, 2], value = 0 }]");
    for (const auto& minimum : *minima->as_array()) definition.minima.push_back(read_minimum(minimum));
  }
  if (const auto* program = root.get("program")) read_program(table_in(*program, "[program]"), folder, definition);
  if (const auto* fit = root.get("fit")) definition.fit = read_fit(table_in(*fit, "[fit]"), folder);
  return definition;
}

const char* sense_word(Sense sense) {
  return sense == Sense::minimize ? "minimize" : "maximize";
}

/// The objectives of formulas, or the names and senses of a program's several.
std::string objectives_to_toml(const ProblemDefinition& definition) {
  const auto& objectives = definition.objectives;
  if (objectives.size() == 1 && !definition.program)
    return fmt::format("{} = {}\n", sense_word(objectives.front().sense), quoted_text(objectives.front().text));
  if (objectives.size() < 2) return "";
  std::vector<std::string> entries;
  for (const Objective& each : objectives)
    entries.push_back(fmt::format("{} = {}", key_text(each.name),
                                  quoted_text(trimmed(fmt::format("{} {}", sense_word(each.sense), each.text)))));
  return fmt::format("objectives = {{ {} }}\n", joined(entries, ", "));
}

std::string fit_to_toml(const FitDefinition& fit) {
  std::string text = fmt::format("\n[fit]\ndata = {}\n", quoted_text(fit.data));
  const auto add = [&](const char* key, const std::string FitEquation::*part) {
    std::vector<std::string> all;
    for (const FitEquation& each : fit.equations) all.push_back(quoted_text(each.*part));
    const bool is_there =
        std::ranges::any_of(fit.equations, [&](const FitEquation& each) { return !(each.*part).empty(); });
    if (is_there)
      text += fmt::format("{} = {}\n", key, all.size() == 1 ? all.front() : fmt::format("[{}]", joined(all, ", ")));
  };
  add("model", &FitEquation::model);
  add("residual", &FitEquation::residual);
  add("errors", &FitEquation::errors);
  add("weights", &FitEquation::weights);
  if (fit.loss != Loss()) text += fmt::format("loss = {}\n", quoted_text(fit.loss.text()));
  return text;
}

std::string program_to_toml(const ProblemDefinition& definition) {
  const ProgramDefinition& program = *definition.program;
  std::vector<std::string> words;
  for (const std::string& word : program.command) words.push_back(quoted_text(word));
  std::string text = fmt::format("\n[program]\ncommand = [{}]\ntimeout = {}\ncopies = {}\nrestarts = {}\n",
                                 joined(words, ", "), number_text(program.timeout), program.copies, program.restarts);
  if (program.residuals > 0) text += fmt::format("residuals = {}\n", program.residuals);
  const bool is_maximized = definition.objectives.size() == 1 && definition.objectives.front().sense == Sense::maximize;
  return is_maximized ? text + "maximize = true\n" : text;
}

std::string variable_to_toml(const VariableDefinition& variable) {
  std::vector<std::string> parts;
  if (variable.count) parts.push_back(fmt::format("count = {}", *variable.count));
  if (!variable.start.empty()) parts.push_back("start = " + number_list(variable.start));
  if (variable.lower) parts.push_back("lower = " + number_text(*variable.lower));
  if (variable.upper) parts.push_back("upper = " + number_text(*variable.upper));
  if (variable.region)
    parts.push_back(
        fmt::format("region = [{}, {}]", number_text(variable.region->first), number_text(variable.region->second)));
  if (!variable.unit.empty()) parts.push_back("unit = " + quoted_text(variable.unit));
  if (variable.scale) parts.push_back("scale = " + number_text(*variable.scale));
  return parts.empty() ? fmt::format("{} = {{}}\n", variable.name)
                       : fmt::format("{} = {{ {} }}\n", variable.name, joined(parts, ", "));
}

} // namespace

ProblemDefinition definition_from_toml(std::string_view text, const std::filesystem::path& folder) {
  return definition_in(parse_toml(text, "problem file"), folder);
}

ProblemDefinition read_definition(const std::filesystem::path& path) {
  const std::string text = read_file(path);
  try {
    return definition_from_toml(text, path.parent_path());
  } catch (const InputError& error) {
    throw InputError(fmt::format("{}: {}", path.string(), error.what()));
  }
}

std::string definition_to_toml(const ProblemDefinition& definition) {
  std::string text = "[problem]\nname = " + quoted_text(definition.name) + "\n";
  if (!definition.title.empty()) text += "title = " + quoted_text(definition.title) + "\n";
  text += objectives_to_toml(definition);
  if (!definition.minima.empty()) {
    std::vector<std::string> minima;
    for (const auto& minimum : definition.minima) {
      const std::vector<double> point(minimum.point.begin(), minimum.point.end());
      minima.push_back(fmt::format("{{ point = {}, value = {}, global = {} }}", number_list(point),
                                   number_text(minimum.value), minimum.global));
    }
    text = fmt::format("minima = [{}]\n\n", joined(minima, ", ")) + text;
  }
  text += "\n[variables]\n";
  for (const auto& variable : definition.variables) text += variable_to_toml(variable);
  if (!definition.parameters.empty()) text += "\n[parameters]\n";
  for (const auto& [name, value] : definition.parameters) text += fmt::format("{} = {}\n", name, number_text(value));
  const auto section = [&](const char* name, const std::vector<NamedFormula>& formulas) {
    if (!formulas.empty()) text += fmt::format("\n[{}]\n", name);
    for (const auto& formula : formulas)
      text += fmt::format("{} = {}\n", key_text(formula.name), quoted_text(formula.text));
  };
  section("terms", definition.terms);
  section("constraints", definition.constraints);
  if (definition.fit) text += fit_to_toml(*definition.fit);
  if (definition.program) text += program_to_toml(definition);
  return text;
}

} // namespace tanzen
