#include "tanzen/report/iteration_table.hpp"

#include "tanzen/report/table.hpp"

#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// The least of 1, 2, 5, 10, 20, ... that gives at most some 20 rows.
std::int64_t round_stride(std::int64_t iterations) {
  constexpr std::int64_t about = 20;
  for (std::int64_t decade = 1;; decade *= 10) {
    for (const std::int64_t stride : {decade, 2 * decade, 5 * decade}) {
      if (iterations <= about * stride) return stride;
    }
  }
}

std::vector<std::size_t> rows_to_show(const Trace& trace, std::optional<std::int64_t> every) {
  std::vector<std::size_t> rows;
  const std::size_t last = trace.rows() - 1;
  const auto iteration_of = [&](std::size_t row) { return static_cast<std::int64_t>(trace.at(row, Trace::iteration)); };
  const std::int64_t stride = every.value_or(round_stride(iteration_of(last)));
  for (std::size_t r = 0; r <= last; ++r) {
    // A thinned trace may miss the iteration that is due; then the next one stands for it.
    const bool is_due = r == 0 || r == last || iteration_of(r) / stride > iteration_of(r - 1) / stride;
    if (is_due) rows.push_back(r);
  }
  return rows;
}

std::string cell_text(double value, const char* form) {
  return std::isnan(value) ? "-" : fmt::format(fmt::runtime(form), value == 0 ? 0.0 : value);
}

/// A column of the table: where its numbers stand in the trace and how they are printed.
struct ShownColumn {
  std::string heading;
  std::size_t place;
  const char* form;
};

bool is_known(const Trace& trace, std::size_t place) {
  for (std::size_t r = 0; r < trace.rows(); ++r) {
    if (!std::isnan(trace.at(r, place))) return true;
  }
  return false;
}

/// Whether any number of a column is another one than zero.
bool is_told(const Trace& trace, std::size_t place) {
  for (std::size_t r = 0; r < trace.rows(); ++r) {
    if (trace.at(r, place) > 0) return true;
  }
  return false;
}

std::vector<ShownColumn> columns_to_show(const Trace& trace, bool points) {
  std::vector<ShownColumn> columns = {
      {"iteration", Trace::iteration, "{:.0f}"}, {"evaluations", Trace::evaluations, "{:.0f}"},
      {"value", Trace::value, "{:.9g}"},         {"gradient", Trace::gradient_norm, "{:.2e}"},
      {"moved", Trace::step_norm, "{:.2e}"},
  };
  if (is_told(trace, Trace::violation)) columns.push_back({"violation", Trace::violation, "{:.2e}"});
  if (is_known(trace, Trace::kkt)) columns.push_back({"kkt", Trace::kkt, "{:.2e}"});
  std::erase_if(columns, [&](const ShownColumn& column) { return !is_known(trace, column.place); });
  for (std::size_t k = 0; k < trace.method_columns().size(); ++k) {
    columns.push_back({trace.method_columns()[k], Trace::fixed_columns + k, "{:.10g}"});
  }
  if (!points || !trace.has_points()) return columns;
  for (std::size_t k = 0; k < trace.variable_names().size(); ++k) {
    columns.push_back({trace.variable_names()[k], Trace::fixed_columns + trace.method_columns().size() + k, "{:.7g}"});
  }
  return columns;
}

} // namespace

std::string iteration_table(const Trace& trace, std::optional<std::int64_t> every, bool points, std::size_t width) {
  const auto columns = columns_to_show(trace, points);
  Table table;
  for (const ShownColumn& column : columns) table.column(column.heading);
  for (const std::size_t r : rows_to_show(trace, every)) {
    std::vector<std::string> cells;
    for (const ShownColumn& column : columns) cells.push_back(cell_text(trace.at(r, column.place), column.form));
    table.row(std::move(cells));
  }
  return table.text(width);
}

} // namespace tanzen
