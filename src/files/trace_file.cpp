#include "tanzen/files/trace_file.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/version.hpp"

#include "json_numbers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <iterator>

namespace tanzen {
namespace {

Json label_to_json(const RunLabel& label) {
  Json settings = Json::object();
  for (const auto& [name, value] : label.settings) settings[name] = value;
  return {{"problem", label.problem},    {"method", label.method},
          {"settings", settings},        {"sense", label.sense == Sense::minimize ? "minimize" : "maximize"},
          {"seed", label.seed},          {"version", label.version},
          {"variables", label.variables}};
}

RunLabel label_from_json(const Json& json) {
  RunLabel label;
  label.problem = json.at("problem").get<std::string>();
  label.method = json.at("method").get<std::string>();
  for (const auto& [name, value] : json.at("settings").items())
    label.settings.emplace_back(name, value.get<std::string>());
  label.sense = json.at("sense") == "maximize" ? Sense::maximize : Sense::minimize;
  label.seed = json.at("seed").get<std::uint64_t>();
  label.version = json.at("version").get<std::string>();
  label.variables = json.at("variables").get<std::vector<std::string>>();
  return label;
}

[[noreturn]] void fail(std::size_t line, const std::string& what) {
  throw InputError(fmt::format("line {} of the trace: {}", line, what));
}

/// The lines of a text without their ends; no line for what follows the last end.
std::vector<std::string_view> lines_of(std::string_view text) {
  std::vector<std::string_view> lines;
  while (!text.empty()) {
    const std::size_t end = std::min(text.find('\n'), text.size());
    std::string_view line = text.substr(0, end);
    if (line.ends_with('\r')) line.remove_suffix(1);
    lines.push_back(line);
    text.remove_prefix(std::min(end + 1, text.size()));
  }
  return lines;
}

Json parsed_json(std::string_view text, std::size_t line) {
  Json json = files::json_in(text);
  if (json.is_discarded() || !json.is_object()) fail(line, "expected a JSON object");
  return json;
}

RunLabel parsed_label(const Json& json, std::size_t line) {
  try {
    return label_from_json(json);
  } catch (const Json::exception& error) {
    fail(line, fmt::format("the run's description is not complete: {}", error.what()));
  }
}

double parsed_cell(const std::string& text, std::size_t line, const std::string& column) {
  if (text.empty()) return not_known;
  const auto number = read_number(text);
  if (!number) fail(line, fmt::format("'{}' in column {} is no number", clipped(text, 40), column));
  return *number;
}

/// Which column of the text stands where in a trace's row; what every trace has and the text has not is not known.
struct ColumnPlan {
  std::vector<std::size_t> places; ///< of each column of the text, in a row
  std::vector<std::string> own;
  bool has_points = false;
  std::size_t width = 0;
};

ColumnPlan plan_of(const std::vector<std::string>& columns, const std::vector<std::string>& variables,
                   std::size_t line) {
  ColumnPlan plan;
  const auto fixed = Trace::fixed_names();
  plan.has_points = columns.size() >= variables.size() && !variables.empty() &&
                    std::equal(variables.rbegin(), variables.rend(), columns.rbegin());
  const std::size_t named = columns.size() - (plan.has_points ? variables.size() : 0);
  for (std::size_t k = 0; k < named; ++k) {
    const auto found = std::ranges::find(fixed, columns[k]);
    if (std::find(columns.begin(), columns.begin() + static_cast<std::ptrdiff_t>(k), columns[k]) !=
        columns.begin() + static_cast<std::ptrdiff_t>(k))
      fail(line, fmt::format("the column '{}' is there twice", clipped(columns[k], 40)));
    if (found != fixed.end()) {
      plan.places.push_back(static_cast<std::size_t>(found - fixed.begin()));
    } else {
      plan.places.push_back(Trace::fixed_columns + plan.own.size());
      plan.own.push_back(columns[k]);
    }
  }
  plan.width = Trace::fixed_columns + plan.own.size();
  for (std::size_t k = named; k < columns.size(); ++k) plan.places.push_back(plan.width++);
  if (std::ranges::find(columns, fixed.front()) == columns.end())
    fail(line, fmt::format("expected a column '{}'", fixed.front()));
  return plan;
}

/// Which columns know anything.
std::vector<bool> known_columns(const Trace& trace) {
  std::vector<bool> known(trace.column_names().size(), trace.rows() == 0);
  for (std::size_t r = 0; r < trace.rows(); ++r) {
    const auto row = trace.row(r);
    for (std::size_t c = 0; c < known.size(); ++c) known[c] = known[c] || !std::isnan(row[c]);
  }
  // A point is whole, or it is none.
  const std::size_t points = trace.has_points() ? static_cast<std::size_t>(trace.dimension()) : 0;
  std::fill(known.end() - static_cast<std::ptrdiff_t>(points), known.end(), true);
  known.front() = true;
  return known;
}

void add_table(fmt::memory_buffer& text, const Trace& trace, const std::vector<bool>& shown) {
  const auto out = std::back_inserter(text);
  const auto names = trace.column_names();
  const auto each_shown = [&](auto&& add) {
    bool first = true;
    for (std::size_t c = 0; c < names.size(); ++c) {
      if (!shown[c]) continue;
      if (!std::exchange(first, false)) text.push_back(',');
      add(c);
    }
    text.push_back('\n');
  };
  each_shown([&](std::size_t c) { fmt::format_to(out, "{}", names[c]); });
  for (std::size_t r = 0; r < trace.rows(); ++r) {
    each_shown([&](std::size_t c) {
      if (const double cell = trace.at(r, c); !std::isnan(cell)) fmt::format_to(out, "{}", cell);
    });
  }
}

} // namespace

LabelledTrace labelled_trace(const Outcome& outcome) {
  LabelledTrace labelled{{.problem = outcome.problem,
                          .method = outcome.method,
                          .settings = {},
                          .sense = outcome.sense,
                          .seed = outcome.seed,
                          .version = version,
                          .variables = outcome.variable_names},
                         outcome.trace};
  for (const auto& setting : outcome.settings) labelled.label.settings.emplace_back(setting.name, setting.value);
  return labelled;
}

std::string trace_table_to_csv(const Trace& trace) {
  if (trace.rows() == 0) return "";
  fmt::memory_buffer text;
  add_table(text, trace, known_columns(trace));
  return fmt::to_string(text);
}

Trace trace_table_from_csv(std::string_view text, const std::vector<std::string>& variables, std::size_t first_line) {
  const auto lines = lines_of(text);
  if (lines.empty()) return {};
  const std::vector<std::string> columns = split(lines.front(), ',');
  const ColumnPlan plan = plan_of(columns, variables, first_line);
  std::vector<double> cells((lines.size() - 1) * plan.width, not_known);
  for (std::size_t k = 1; k < lines.size(); ++k) {
    const auto row = split(lines[k], ',');
    if (row.size() != columns.size())
      fail(first_line + k, fmt::format("expected {} cells, found {}", columns.size(), row.size()));
    for (std::size_t c = 0; c < row.size(); ++c)
      cells[(k - 1) * plan.width + plan.places[c]] = parsed_cell(row[c], first_line + k, columns[c]);
  }
  return {plan.own, variables, plan.has_points, std::move(cells)};
}

std::string trace_to_csv(const LabelledTrace& labelled) {
  fmt::memory_buffer text;
  fmt::format_to(std::back_inserter(text), "# {}\n", files::json_text(label_to_json(labelled.label)));
  add_table(text, labelled.trace, std::vector<bool>(labelled.trace.column_names().size(), true));
  return fmt::to_string(text);
}

LabelledTrace trace_from_csv(std::string_view text) {
  const std::size_t end = text.find('\n');
  if (end == std::string_view::npos || !text.starts_with('#'))
    fail(1, "expected '#' and the run's description as JSON");
  LabelledTrace labelled{parsed_label(parsed_json(text.substr(1, end - 1), 1), 1), {}};
  labelled.trace = trace_table_from_csv(text.substr(end + 1), labelled.label.variables, 2);
  return labelled;
}

std::string trace_to_json_lines(const LabelledTrace& labelled) {
  const Trace& trace = labelled.trace;
  Json head = {{"run", label_to_json(labelled.label)}};
  head["own_columns"] = trace.method_columns();
  head["points"] = trace.has_points();
  std::string text = files::json_text(head) + "\n";
  const auto columns = trace.column_names();
  const std::size_t scalars = Trace::fixed_columns + trace.method_columns().size();
  for (std::size_t r = 0; r < trace.rows(); ++r) {
    Json row = Json::object();
    for (std::size_t c = 0; c < scalars; ++c) row[columns[c]] = files::to_json(trace.at(r, c));
    if (trace.has_points()) row["point"] = files::to_json(Vector(trace.point(r)));
    text += files::json_text(row) + "\n";
  }
  return text;
}

LabelledTrace trace_from_json_lines(std::string_view text) {
  const auto lines = lines_of(text);
  if (lines.empty()) fail(1, "expected the run's description");
  const Json head = parsed_json(lines[0], 1);
  LabelledTrace labelled;
  std::size_t line = 1;
  try {
    labelled.label = label_from_json(head.at("run"));
    const auto own = head.at("own_columns").get<std::vector<std::string>>();
    const bool has_points = head.at("points").get<bool>();
    std::vector<double> cells;
    for (line = 2; line <= lines.size(); ++line) {
      const Json row = parsed_json(lines[line - 1], line);
      for (const auto name : Trace::fixed_names()) cells.push_back(files::number_from_json(row.at(std::string(name))));
      for (const auto& name : own) cells.push_back(files::number_from_json(row.at(name)));
      if (!has_points) continue;
      const Vector point = files::vector_from_json(row.at("point"));
      if (point.size() != static_cast<Index>(labelled.label.variables.size()))
        fail(line, "the point has the wrong length");
      cells.insert(cells.end(), point.begin(), point.end());
    }
    labelled.trace = Trace(own, labelled.label.variables, has_points, std::move(cells));
  } catch (const Json::exception& error) {
    fail(line, error.what());
  }
  return labelled;
}

void check_trace_name(const std::filesystem::path& path) {
  const auto ending = path.extension();
  if (ending != ".csv" && ending != ".jsonl") {
    throw InputError(fmt::format("a trace is written as .csv or .jsonl, not '{}'", path.filename().string()));
  }
}

void write_trace(const std::filesystem::path& path, const Outcome& outcome) {
  check_trace_name(path);
  const LabelledTrace labelled = labelled_trace(outcome);
  write_file(path, path.extension() == ".csv" ? trace_to_csv(labelled) : trace_to_json_lines(labelled));
}

LabelledTrace read_trace(const std::filesystem::path& path) {
  check_trace_name(path);
  const std::string text = read_file(path);
  return path.extension() == ".csv" ? trace_from_csv(text) : trace_from_json_lines(text);
}

} // namespace tanzen
