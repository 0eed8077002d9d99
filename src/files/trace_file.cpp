#include "tanzen/files/trace_file.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/version.hpp"

#include "json_numbers.hpp"

#include <algorithm>
#include <fmt/format.h>
#include <iterator>

namespace tanzen {
namespace {

using files::Json;

constexpr double unknown = std::numeric_limits<double>::quiet_NaN();

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
  Json json = Json::parse(text, nullptr, false);
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
  if (text.empty()) return unknown;
  const auto number = read_number(text);
  if (!number) fail(line, fmt::format("'{}' in column {} is no number", clipped(text, 40), column));
  return *number;
}

void check_fixed_columns(const std::vector<std::string>& columns, std::size_t line) {
  const auto fixed = Trace::fixed_names();
  for (std::size_t k = 0; k < fixed.size(); ++k) {
    if (k < columns.size() && columns[k] == fixed[k]) continue;
    fail(line, fmt::format("expected column {} to be '{}'", k + 1, fixed[k]));
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

std::string trace_to_csv(const LabelledTrace& labelled) {
  const Trace& trace = labelled.trace;
  fmt::memory_buffer text;
  const auto out = std::back_inserter(text);
  fmt::format_to(out, "# {}\n{}\n", label_to_json(labelled.label).dump(), joined(trace.column_names(), ","));
  for (std::size_t r = 0; r < trace.rows(); ++r) {
    bool first = true;
    for (const double cell : trace.row(r)) {
      if (!std::exchange(first, false)) text.push_back(',');
      if (!std::isnan(cell)) fmt::format_to(out, "{}", cell);
    }
    text.push_back('\n');
  }
  return fmt::to_string(text);
}

LabelledTrace trace_from_csv(std::string_view text) {
  const auto lines = lines_of(text);
  if (lines.size() < 2 || !lines[0].starts_with('#')) fail(1, "expected '#' and the run's description as JSON");
  LabelledTrace labelled{parsed_label(parsed_json(lines[0].substr(1), 1), 1), {}};
  const std::vector<std::string> columns = split(lines[1], ',');
  check_fixed_columns(columns, 2);

  const auto& variables = labelled.label.variables;
  const auto own_and_points = columns.size() - Trace::fixed_columns;
  const bool has_points = own_and_points >= variables.size() && !variables.empty() &&
                          std::equal(variables.rbegin(), variables.rend(), columns.rbegin());
  const auto points_begin = columns.end() - static_cast<std::ptrdiff_t>(has_points ? variables.size() : 0);
  std::vector<std::string> own(columns.begin() + Trace::fixed_columns, points_begin);

  std::vector<double> cells;
  for (std::size_t k = 2; k < lines.size(); ++k) {
    const auto row = split(lines[k], ',');
    if (row.size() != columns.size())
      fail(k + 1, fmt::format("expected {} cells, found {}", columns.size(), row.size()));
    for (std::size_t c = 0; c < row.size(); ++c) cells.push_back(parsed_cell(row[c], k + 1, columns[c]));
  }
  labelled.trace = Trace(std::move(own), variables, has_points, std::move(cells));
  return labelled;
}

std::string trace_to_json_lines(const LabelledTrace& labelled) {
  const Trace& trace = labelled.trace;
  Json head = {{"run", label_to_json(labelled.label)}};
  head["own_columns"] = trace.method_columns();
  head["points"] = trace.has_points();
  std::string text = head.dump() + "\n";
  const auto columns = trace.column_names();
  const std::size_t scalars = Trace::fixed_columns + trace.method_columns().size();
  for (std::size_t r = 0; r < trace.rows(); ++r) {
    Json row = Json::object();
    for (std::size_t c = 0; c < scalars; ++c) row[columns[c]] = files::to_json(trace.at(r, c));
    if (trace.has_points()) row["point"] = files::to_json(Vector(trace.point(r)));
    text += row.dump() + "\n";
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
