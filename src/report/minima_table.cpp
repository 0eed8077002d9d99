#include "tanzen/report/minima_table.hpp"

#include "tanzen/report/table.hpp"

#include "tanzen/analysis/point_kind.hpp"
#include "tanzen/base/text.hpp"

#include <fmt/format.h>

namespace tanzen {
namespace {

std::string known_as(const Problem& problem, const Vector& point) {
  const Vector apart = 1e-3 * problem.region().width();
  for (const KnownMinimum& known : problem.known_minima()) {
    if (((known.point - point).array().abs() <= apart.array()).all()) return known.global ? "global" : "local";
  }
  return "";
}

} // namespace

std::string minima_table(const Problem& problem, const Outcome& outcome, std::size_t width) {
  constexpr std::size_t most_rows = 40;
  const char* extreme = problem.sense() == Sense::minimize ? "minim" : "maxim";
  if (outcome.minima.empty()) {
    return fmt::format("  {} listed no local {}a; single-linkage and multistart look for them\n", outcome.method,
                       extreme);
  }
  std::int64_t searches = 0;
  for (const FoundMinimum& minimum : outcome.minima) searches += minimum.times;
  const bool has_known = !problem.known_minima().empty();
  Table table;
  table.column(fmt::format("{}um", extreme));
  for (const char* heading : {"value", "searches", "share"}) table.column(heading);
  if (has_known) table.column("known", Table::Align::left);
  for (const char* heading : {"curvature", "point"}) table.column(heading, Table::Align::left);
  const std::size_t shown = std::min(outcome.minima.size(), most_rows);
  for (std::size_t k = 0; k < shown; ++k) {
    const FoundMinimum& minimum = outcome.minima[k];
    const auto curvature = curvature_at(problem, minimum.point);
    std::vector<std::string> cells{
        std::to_string(k + 1), short_number(minimum.value, 10), std::to_string(minimum.times),
        fmt::format("{:.1f} %", 100 * static_cast<double>(minimum.times) / static_cast<double>(searches))};
    if (has_known) cells.push_back(known_as(problem, minimum.point));
    cells.push_back(curvature ? std::string(point_kind_word(curvature->kind)) : "");
    cells.push_back(point_text(minimum.point, 7, 6));
    table.row(std::move(cells));
  }
  std::string text = table.text(width);
  if (shown < outcome.minima.size())
    text += fmt::format("  ... and {} more, with --json\n", outcome.minima.size() - shown);
  return text;
}

} // namespace tanzen
