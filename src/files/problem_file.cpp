#include "tanzen/files/problem_file.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/write_file.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
// The reader asserts what a file says before it refuses it; what a user wrote is no bug.
#define TOML_ASSERT(expression) static_cast<void>(0)
#include <toml++/toml.h>

namespace tanzen {
namespace {

[[noreturn]] void fail(const toml::node& at, const std::string& what) {
  throw InputError(fmt::format("line {}: {}", at.source().begin.line, what));
}

void check_keys(const toml::table& table, std::string_view owner, const std::vector<std::string>& known) {
  for (const auto& [key, node] : table) {
    const std::string name(key.str());
    if (std::ranges::find(known, name) != known.end()) continue;
    fail(node, fmt::format("{} has no '{}' (it may have {}){}", owner, clipped(name, 40), joined(known, ", "),
                           did_you_mean(name, known)));
  }
}

std::string text_in(const toml::node& node, std::string_view what) {
  const auto text = node.value<std::string>();
  if (!node.is_string() || !text) fail(node, fmt::format("{} must be a text in quotes", what));
  return *text;
}

double number_in(const toml::node& node, std::string_view what) {
  const auto number = node.value<double>();
  if (!node.is_number() || !number || std::isnan(*number)) fail(node, fmt::format("{} must be a number", what));
  return *number;
}

std::vector<double> numbers_in(const toml::node& node, std::string_view what) {
  if (node.is_number()) return {number_in(node, what)};
  const auto* array = node.as_array();
  if (array == nullptr || array->empty()) fail(node, fmt::format("{} must be a number or a list of numbers", what));
  std::vector<double> numbers;
  for (const auto& element : *array) numbers.push_back(number_in(element, what));
  return numbers;
}

const toml::table& table_in(const toml::node& node, std::string_view what) {
  const auto* table = node.as_table();
  if (table == nullptr) fail(node, fmt::format("{} must be a table", what));
  return *table;
}

/// TOML tables keep no order; the place in the file does.
std::vector<std::pair<std::string, const toml::node*>> in_order(const toml::table& table) {
  std::vector<std::pair<std::string, const toml::node*>> entries;
  for (const auto& [key, node] : table) entries.emplace_back(std::string(key.str()), &node);
  std::ranges::stable_sort(entries, [](const auto& a, const auto& b) {
    const auto &x = a.second->source().begin, &y = b.second->source().begin;
    return x.line != y.line ? x.line < y.line : x.column < y.column;
  });
  return entries;
}

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
  check_keys(root, "a problem file", {"problem", "variables", "parameters", "terms", "constraints", "minima", "fit"});
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
  if (const auto* fit = root.get("fit")) definition.fit = read_fit(table_in(*fit, "[fit]"), folder);
  return definition;
}

/// A basic TOML string.
std::string quoted_text(std::string_view text) {
  std::string result = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\') result += '\\';
    if (static_cast<unsigned char>(c) < 0x20)
      result += fmt::format("\\u{:04x}", static_cast<unsigned>(c));
    else
      result += c;
  }
  return result + "\"";
}

std::string number_list(std::span<const double> numbers) {
  std::vector<std::string> texts;
  for (const double number : numbers) texts.push_back(number_text(number));
  return texts.size() == 1 ? texts.front() : fmt::format("[{}]", joined(texts, ", "));
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

/// The end of the string or comment that begins at `begin`; `begin` itself where neither begins there. A quote within
/// a word begins none.
std::size_t end_of_free_text(std::string_view text, std::size_t begin) {
  if (text[begin] == '#') return std::min(text.find('\n', begin), text.size());
  const bool in_word = begin > 0 && std::string_view(" \t\r\n=[{,").find(text[begin - 1]) == std::string_view::npos;
  if ((text[begin] != '"' && text[begin] != '\'') || in_word) return begin;
  const bool is_long = text.substr(begin, 3) == std::string(3, text[begin]);
  const std::string quote(is_long ? 3 : 1, text[begin]);
  for (std::size_t i = begin + quote.size(); i < text.size(); ++i) {
    if (text[i] == '\\' && quote[0] == '"')
      ++i;
    else if (text.substr(i, quote.size()) == quote)
      return i + quote.size();
    else if (text[i] == '\n' && !is_long)
      return i;
  }
  return text.size();
}

/// Outside strings and comments a problem file is plain ASCII; the TOML reader is undefined for some other characters.
void check_is_plain(std::string_view text) {
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (const std::size_t end = end_of_free_text(text, i); end != i) {
      i = end - 1;
      continue;
    }
    const auto byte = static_cast<unsigned char>(text[i]);
    if ((byte >= 0x20 && byte < 0x7f) || byte == '\t' || byte == '\n' || byte == '\r') continue;
    const auto before = text.substr(0, i);
    throw InputError(
        fmt::format("line {}, column {}: outside quotes a problem file is plain ASCII; found the byte 0x{:02x}",
                    std::ranges::count(before, '\n') + 1, i - (before.rfind('\n') + 1) + 1, byte));
  }
}

} // namespace

ProblemDefinition definition_from_toml(std::string_view text, const std::filesystem::path& folder) {
  constexpr std::size_t longest = std::size_t{8} << 20U;
  if (text.size() > longest)
    throw InputError(fmt::format("the problem file has {} bytes; the most is {}", text.size(), longest));
  if (trimmed(text).empty()) throw InputError("the problem file is empty");
  check_is_plain(text);
  try {
    return definition_in(toml::parse(text), folder);
  } catch (const toml::parse_error& error) {
    throw InputError(fmt::format("line {}, column {}: {}", error.source().begin.line, error.source().begin.column,
                                 error.description()));
  }
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
  return text;
}

} // namespace tanzen
