#include "tanzen/files/problem_file.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/write_file.hpp"

#include "toml_text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

using namespace files;

void read_head(const toml::table& head, ProblemDefinition& definition) {
  check_keys(head, "[problem]", {"name", "title", "minimize", "maximize", "objectives"});
  if (head.contains("name")) definition.name = text_in(*head.get("name"), "the name");
  if (head.contains("title")) definition.title = text_in(*head.get("title"), "the title");
  int given = 0;
  for (const char* key : {"minimize", "maximize"}) {
    if (!head.contains(key)) continue;
    ++given;
    definition.objectives = {text_in(*head.get(key), key)};
    definition.sense = std::string_view(key) == "maximize" ? Sense::maximize : Sense::minimize;
  }
  if (const auto* several = head.get("objectives")) {
    ++given;
    if (!several->is_array()) fail(*several, "objectives must be a list of texts");
    for (const auto& each : *several->as_array()) definition.objectives.push_back(text_in(each, "an objective"));
  }
  if (given > 1) fail(head, "only one of minimize, maximize and objectives can be given");
}

VariableDefinition read_variable(const std::string& name, const toml::node& node) {
  VariableDefinition variable{.name = name};
  const auto& table = table_in(node, fmt::format("the variable {}", name));
  check_keys(table, fmt::format("the variable {}", name), {"count", "start", "lower", "upper", "region", "unit"});
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
  if (const auto* unit = table.get("unit")) variable.unit = text_in(*unit, fmt::format("the unit of {}", name));
  return variable;
}

/// A table of numbers with a header; every cell must be one.
void read_data(const std::filesystem::path& path, FitDefinition& fit) {
  const std::string text = read_file(path);
  std::size_t line_number = 0;
  for (const std::string& line : split(text, '\n')) {
    ++line_number;
    if (line.empty() || line.starts_with('#')) continue;
    const auto cells = split(line, ',');
    if (fit.columns.empty()) {
      fit.columns = cells;
      continue;
    }
    const auto wrong = [&](const std::string& what) {
      throw InputError(fmt::format("{}, line {}: {}", path.string(), line_number, what));
    };
    if (cells.size() != fit.columns.size())
      wrong(fmt::format("{} cells, but {} columns", cells.size(), fit.columns.size()));
    auto& row = fit.rows.emplace_back();
    for (std::size_t k = 0; k < cells.size(); ++k) {
      const auto number = read_number(cells[k]);
      if (!number || !std::isfinite(*number))
        wrong(fmt::format("'{}' in column {} is no finite number", clipped(cells[k], 40), fit.columns[k]));
      row.push_back(*number);
    }
  }
}

FitDefinition read_fit(const toml::table& table, const std::filesystem::path& folder) {
  check_keys(table, "[fit]", {"data", "residual"});
  if (!table.contains("data") || !table.contains("residual"))
    fail(table, "[fit] needs data = \"table.csv\" and residual = \"...\"");
  FitDefinition fit{.data = text_in(*table.get("data"), "data"),
                    .residual = text_in(*table.get("residual"), "residual")};
  read_data(folder / fit.data, fit);
  return fit;
}

void read_program(const toml::table& table, const std::filesystem::path& folder, ProblemDefinition& definition) {
  check_keys(table, "[program]", {"command", "timeout", "copies", "restarts", "maximize"});
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
  if (const auto* maximize = table.get("maximize"); maximize != nullptr && maximize->value_or(false))
    definition.sense = Sense::maximize;
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

std::string program_to_toml(const ProblemDefinition& definition) {
  const ProgramDefinition& program = *definition.program;
  std::vector<std::string> words;
  for (const std::string& word : program.command) words.push_back(quoted_text(word));
  return fmt::format("\n[program]\ncommand = [{}]\ntimeout = {}\ncopies = {}\nrestarts = {}\n{}", joined(words, ", "),
                     number_text(program.timeout), program.copies, program.restarts,
                     definition.sense == Sense::maximize ? "maximize = true\n" : "");
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
  if (definition.objectives.size() == 1) {
    text += fmt::format("{} = {}\n", definition.sense == Sense::minimize ? "minimize" : "maximize",
                        quoted_text(definition.objectives.front()));
  } else if (!definition.objectives.empty()) {
    std::vector<std::string> quoted;
    for (const std::string& objective : definition.objectives) quoted.push_back(quoted_text(objective));
    text += fmt::format("objectives = [{}]\n", joined(quoted, ", "));
  }
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
    for (const auto& formula : formulas) text += fmt::format("{} = {}\n", formula.name, quoted_text(formula.text));
  };
  section("terms", definition.terms);
  section("constraints", definition.constraints);
  if (definition.fit)
    text += fmt::format("\n[fit]\ndata = {}\nresidual = {}\n", quoted_text(definition.fit->data),
                        quoted_text(definition.fit->residual));
  if (definition.program) text += program_to_toml(definition);
  return text;
}

} // namespace tanzen
