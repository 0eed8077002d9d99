#include "comparison_text.hpp"

#include "table.hpp"

#include "tanzen/base/text.hpp"

#include <cmath>
#include <fmt/format.h>

namespace tanzen::cli {
namespace {

std::string cost_text(double cost) {
  return std::isfinite(cost) ? fmt::format("{:.0f}", cost) : "-";
}

} // namespace

std::string comparison_table(const ProblemComparison& comparison) {
  Table table;
  table.column("method", Table::Align::left);
  for (const char* heading :
       {"successes", "95 % interval", "median gap", "quartiles", "median cost", "expected", "mean rank"}) {
    table.column(heading);
  }
  for (const ComparisonRow& row : comparison.rows) {
    table.row({row.method, fmt::format("{}/{}", row.successes, row.repeats),
               fmt::format("{:.0f} to {:.0f} %", 100 * row.success_interval.lower, 100 * row.success_interval.upper),
               fmt::format("{:.1e}", row.median_gap),
               fmt::format("{:.1e} to {:.1e}", row.lower_quartile_gap, row.upper_quartile_gap),
               cost_text(row.median_cost), row.expected_running_time ? cost_text(*row.expected_running_time) : "-",
               fmt::format("{:.2f}", row.mean_rank)});
  }
  const std::string reference =
      fmt::format("{} {}", comparison.reference_is_known ? "the global best" : "the best value of these runs,",
                  short_number(comparison.reference, 8));
  return fmt::format("  {}: gaps to {}\n\n{}", comparison.problem, reference, table.text());
}

std::string comparison_notes(const ComparisonPlan& plan) {
  return fmt::format("  A success is a gap of at most {}. Cost counts evaluations, an exact gradient as one more.\n"
                     "  Expected: what all {} runs spent, divided by the successes. All methods of a repeat begin at "
                     "the same point; seed {}.\n",
                     number_text(plan.gap), plan.repeats, plan.seed);
}

} // namespace tanzen::cli
