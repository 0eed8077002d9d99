#include "tanzen/report/comparison_report.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/comparison/verdict.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr std::size_t few_problems = 8;

std::string cost_text(double cost) {
  return std::isfinite(cost) ? fmt::format("{:.0f}", cost) : "-";
}

std::string range_text(const Interval& costs) {
  return std::isfinite(costs.lower) ? fmt::format("{} to {}", cost_text(costs.lower), cost_text(costs.upper)) : "-";
}

std::string percent_text(const Interval& rates) {
  return fmt::format("{:.0f} to {:.0f} %", 100 * rates.lower, 100 * rates.upper);
}

std::string p_text(double p) {
  return p < 0.001 ? fmt::format("{:.0e}", p) : fmt::format("{:.3f}", p);
}

Table with_columns(std::initializer_list<const char*> words, std::initializer_list<const char*> numbers) {
  Table table;
  for (const char* heading : words) table.column(heading, Table::Align::left);
  for (const char* heading : numbers) table.column(heading);
  return table;
}

TitledTable group_table(const GroupComparison& comparison) {
  Table table = with_columns(
      {"method"}, {"successes", "95 % interval", "anytime", "mean rank", "p to first", "wins, ties, losses", "effect"});
  for (std::size_t m = 0; m < comparison.rows.size(); ++m) {
    const GroupRow& row = comparison.rows[m];
    const bool is_first = m == comparison.first;
    table.row({row.method, fmt::format("{}/{}", row.successes, row.runs), percent_text(row.success_interval),
               fmt::format("{:.2f}", row.anytime), fmt::format("{:.2f}", row.mean_rank),
               is_first ? "first" : p_text(row.p_to_first),
               is_first ? "-" : fmt::format("{}, {}, {}", row.to_first.wins, row.to_first.ties, row.to_first.losses),
               is_first ? "-" : fmt::format("{:.2f}", row.effect)},
              {.method = row.method});
  }
  std::string title =
      fmt::format("{}: {}", comparison.group, counted(static_cast<long long>(comparison.problems), "problem"));
  if (comparison.rows.size() > 1)
    title += fmt::format("; Friedman's test p {}, critical distance of mean ranks {:.2f}",
                         p_text(comparison.friedman.p), comparison.critical_distance);
  return {std::move(title), std::move(table)};
}

TitledTable scaling_table(const std::vector<ScalingRow>& rows) {
  Table table = with_columns({"family", "method"}, {"variables", "expected cost", "exponent"});
  for (const ScalingRow& row : rows) {
    std::vector<std::string> variables, costs;
    for (std::size_t k = 0; k < row.costs.size(); ++k) {
      variables.push_back(number_text(row.variables[k]));
      costs.push_back(cost_text(row.costs[k]));
    }
    const std::string exponent = std::isnan(row.exponent) ? "-"
                                 : std::isinf(row.exponent_error)
                                     ? fmt::format("{:.2f}", row.exponent)
                                     : fmt::format("{:.2f} +- {:.2f}", row.exponent, row.exponent_error);
    table.row({row.family, row.method, joined(variables, ", "), joined(costs, ", "), exponent}, {.method = row.method});
  }
  return {"cost against the number of variables: cost = factor * n^exponent", std::move(table)};
}

TitledTable robustness_table(const std::vector<RobustnessRow>& rows) {
  Table table = with_columns({"method", "over", "worst"}, {"levels", "successes", "anytime"});
  for (const RobustnessRow& row : rows)
    table.row({row.method, row.factor, row.worst, std::to_string(row.levels), percent_text(row.success_rates),
               fmt::format("{:.2f} to {:.2f}", row.anytime.lower, row.anytime.upper)},
              {.method = row.method});
  return {
      "robustness: from the worst level to the best; of starts, problems solved from every one to from at least one",
      std::move(table)};
}

} // namespace

TitledTable success_table(const std::vector<ProblemComparison>& comparisons) {
  Table table = with_columns({"problem"}, {"gap"});
  for (const ComparisonRow& row : comparisons.front().rows) table.column(row.method);
  for (const ProblemComparison& comparison : comparisons) {
    std::vector<std::string> cells{comparison.problem, number_text(comparison.gap)};
    for (const ComparisonRow& row : comparison.rows) cells.push_back(fmt::format("{}/{}", row.successes, row.repeats));
    table.row(std::move(cells), {.problem = comparison.problem});
  }
  return {"successes", std::move(table)};
}

ComparisonParts comparison_parts(const Results& results, std::optional<double> gap, const std::string& by,
                                 const std::string& only) {
  ComparisonParts parts{.problems = compare(results, gap), .groups = {}, .scaling = {}, .robustness = {}};
  std::vector<ProblemGroup> groups = group_problems(results);
  if (!only.empty()) {
    groups = {only_problems(results, only)};
    std::erase_if(parts.problems, [&](const ProblemComparison& each) {
      return std::ranges::none_of(groups.front().problems,
                                  [&](std::size_t p) { return results.problems()[p].label == each.problem; });
    });
  }
  if (!by.empty()) std::ranges::copy(group_problems(results, by), std::back_inserter(groups));
  for (const ProblemGroup& group : groups) {
    GroupComparison compared = compare_over(parts.problems, results, group);
    if (compared.problems > 1) parts.groups.push_back(std::move(compared));
  }
  parts.scaling = scaling_of(parts.problems, results);
  parts.robustness = robustness_of(parts.problems, results);
  return parts;
}

TitledTable problem_table(const ProblemComparison& comparison) {
  Table table = with_columns({"method"}, {"successes", "95 % interval", "median gap", "quartiles", "median cost",
                                          "expected", "95 % interval", "decades/100", "anytime", "mean rank"});
  for (const ComparisonRow& row : comparison.rows) {
    table.row({row.method, fmt::format("{}/{}", row.successes, row.repeats), percent_text(row.success_interval),
               fmt::format("{:.1e}", row.median_gap),
               fmt::format("{:.1e} to {:.1e}", row.lower_quartile_gap, row.upper_quartile_gap),
               cost_text(row.median_cost), row.expected_running_time ? cost_text(*row.expected_running_time) : "-",
               range_text(row.running_time_interval), row.rate ? short_number(*row.rate, 2) : "-",
               fmt::format("{:.2f}", row.anytime), fmt::format("{:.2f}", row.mean_rank)},
              {.problem = comparison.problem, .method = row.method});
  }
  if (comparison.is_front && comparison.reference_is_known)
    return {fmt::format("{}: gaps, the share of the true front's volume that is not covered", comparison.problem),
            std::move(table)};
  const std::string reference =
      fmt::format("{} {}", comparison.reference_is_known ? "the global best" : "the best value of these runs,",
                  short_number(comparison.reference, 8));
  return {fmt::format("{}: gaps to {}", comparison.problem, reference), std::move(table)};
}

std::vector<TitledTable> group_tables(const ComparisonParts& parts) {
  std::vector<TitledTable> tables;
  for (const GroupComparison& group : parts.groups) tables.push_back(group_table(group));
  if (!parts.scaling.empty()) tables.push_back(scaling_table(parts.scaling));
  if (parts.problems.size() > 1) tables.push_back(robustness_table(parts.robustness));
  return tables;
}

std::vector<TitledTable> comparison_tables(const ComparisonParts& parts, bool each) {
  std::vector<TitledTable> tables;
  if (each || parts.problems.size() <= few_problems) {
    for (const ProblemComparison& comparison : parts.problems) tables.push_back(problem_table(comparison));
  } else {
    tables.push_back(success_table(parts.problems));
  }
  for (TitledTable& table : group_tables(parts)) tables.push_back(std::move(table));
  return tables;
}

std::string comparison_notes(const Results& results, const ComparisonParts& parts) {
  std::string gap = number_text(parts.problems.front().gap);
  const bool differ =
      std::ranges::any_of(parts.problems, [&](const auto& each) { return number_text(each.gap) != gap; });
  if (differ) gap = "the problem's smallest target";
  return fmt::format(
      "  A success is a gap of at most {}. Cost counts evaluations, an exact gradient as {} more, a Hessian "
      "as n gradients.\n"
      "  Expected: what all {} runs spent, divided by the successes. Anytime: 1 is all targets at once, 0 "
      "none ever.\n  All methods of a repeat begin at the same point; seed {}.\n",
      gap, results.gradient_weight() == 1 ? "one" : number_text(results.gradient_weight()),
      parts.problems.front().rows.front().repeats, results.seed());
}

std::vector<std::string> failure_lines(const ComparisonParts& parts) {
  std::vector<std::string> lines;
  for (const ProblemComparison& comparison : parts.problems) {
    for (const ComparisonRow& row : comparison.rows) {
      if (row.failures > 0)
        lines.push_back(fmt::format("{} on {}: {} of {} runs failed, the first because {}", row.method,
                                    comparison.problem, row.failures, row.repeats, clipped(row.first_failure, 120)));
    }
  }
  return lines;
}

std::vector<std::string> comparison_sentences(const ComparisonParts& parts, bool each) {
  std::vector<std::string> sentences;
  if (each || parts.problems.size() <= few_problems) {
    for (const ProblemComparison& comparison : parts.problems) sentences.push_back(verdict_text(comparison));
  }
  for (const GroupComparison& group : parts.groups) sentences.push_back(verdict_text(group));
  std::erase(sentences, "");
  return sentences;
}

std::string comparison_text(const Results& results, const ComparisonParts& parts, bool each, std::size_t width) {
  std::string text;
  if (!results.title().empty()) text += fmt::format("\n  {}\n", results.title());
  if (results.done() < results.planned())
    text += fmt::format("\n  {} of {} runs are done; compared are the repeats that all methods have done\n",
                        results.done(), results.planned());
  for (const TitledTable& table : comparison_tables(parts, each))
    text += fmt::format("\n  {}\n\n{}", table.title, table.table.text(width));
  const auto failures = failure_lines(parts);
  if (!failures.empty()) text += "\n";
  for (const std::string& line : failures) text += fmt::format("  {}\n", line);
  text += fmt::format("\n{}", comparison_notes(results, parts));
  const auto sentences = comparison_sentences(parts, each);
  if (!sentences.empty()) text += "\n";
  for (const std::string& sentence : sentences) text += fmt::format("  {}.\n", sentence);
  return text;
}

} // namespace tanzen
