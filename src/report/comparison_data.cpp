#include "tanzen/report/comparison_report.hpp"

#include "tanzen/files/csv_cell.hpp"

#include <cmath>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace tanzen {
namespace {

using Json = nlohmann::ordered_json;

Json number_or_null(double value) {
  return std::isfinite(value) ? Json(value) : Json(nullptr);
}

Json to_json(const Interval& interval) {
  return {number_or_null(interval.lower), number_or_null(interval.upper)};
}

Json to_json(const ComparisonRow& row) {
  return {{"method", row.method},
          {"repeats", row.repeats},
          {"successes", row.successes},
          {"success_interval", to_json(row.success_interval)},
          {"median_gap", number_or_null(row.median_gap)},
          {"quartile_gaps", {number_or_null(row.lower_quartile_gap), number_or_null(row.upper_quartile_gap)}},
          {"median_cost", number_or_null(row.median_cost)},
          {"expected_running_time", row.expected_running_time ? Json(*row.expected_running_time) : Json(nullptr)},
          {"expected_interval", to_json(row.running_time_interval)},
          {"decades_per_100", row.rate ? Json(*row.rate) : Json(nullptr)},
          {"anytime", row.anytime},
          {"mean_rank", row.mean_rank},
          {"failures", row.failures}};
}

Json to_json(const GroupComparison& group) {
  Json rows = Json::array();
  for (const GroupRow& row : group.rows) {
    rows.push_back({{"method", row.method},
                    {"runs", row.runs},
                    {"successes", row.successes},
                    {"success_interval", to_json(row.success_interval)},
                    {"anytime", row.anytime},
                    {"mean_rank", row.mean_rank},
                    {"p_to_first", row.p_to_first},
                    {"wins", row.to_first.wins},
                    {"ties", row.to_first.ties},
                    {"losses", row.to_first.losses},
                    {"effect", row.effect}});
  }
  return {{"group", group.group},
          {"problems", group.problems},
          {"first", group.rows[group.first].method},
          {"friedman", {{"statistic", group.friedman.statistic}, {"p", group.friedman.p}}},
          {"critical_distance", group.critical_distance},
          {"methods", rows}};
}

/// Empty for what is not known or infinite.
std::string cell(double number) {
  return csv_cell(std::isfinite(number) ? number : NAN);
}

} // namespace

std::string comparison_to_csv(const ComparisonParts& parts) {
  std::string text =
      "problem,gap,method,repeats,successes,success_lower,success_upper,lower_quartile_gap,median_gap,"
      "upper_quartile_gap,median_cost,expected_running_time,expected_lower,expected_upper,decades_per_100,anytime,"
      "mean_rank,failures\n";
  for (const ProblemComparison& comparison : parts.problems) {
    for (const ComparisonRow& row : comparison.rows) {
      text += fmt::format("{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{}\n", csv_cell(comparison.problem),
                          cell(comparison.gap), csv_cell(row.method), row.repeats, row.successes,
                          cell(row.success_interval.lower), cell(row.success_interval.upper),
                          cell(row.lower_quartile_gap), cell(row.median_gap), cell(row.upper_quartile_gap),
                          cell(row.median_cost), cell(row.expected_running_time.value_or(NAN)),
                          cell(row.running_time_interval.lower), cell(row.running_time_interval.upper),
                          cell(row.rate.value_or(NAN)), cell(row.anytime), cell(row.mean_rank), row.failures);
    }
  }
  return text;
}

std::string comparison_to_json(const Results& results, const ComparisonParts& parts) {
  Json problems = Json::array(), groups = Json::array(), scaling = Json::array(), robustness = Json::array();
  for (const ProblemComparison& comparison : parts.problems) {
    Json rows = Json::array();
    for (const ComparisonRow& row : comparison.rows) rows.push_back(to_json(row));
    problems.push_back({{"problem", comparison.problem},
                        {"gap", comparison.gap},
                        {"reference", number_or_null(comparison.reference)},
                        {"reference_is_known", comparison.reference_is_known},
                        {"methods", rows}});
  }
  for (const GroupComparison& group : parts.groups) groups.push_back(to_json(group));
  for (const ScalingRow& row : parts.scaling) {
    Json costs = Json::array();
    for (const double cost : row.costs) costs.push_back(number_or_null(cost));
    scaling.push_back({{"family", row.family},
                       {"method", row.method},
                       {"variables", row.variables},
                       {"expected_running_times", costs},
                       {"exponent", number_or_null(row.exponent)},
                       {"exponent_error", number_or_null(row.exponent_error)}});
  }
  for (const RobustnessRow& row : parts.robustness)
    robustness.push_back({{"method", row.method},
                          {"factor", row.factor},
                          {"levels", row.levels},
                          {"success_rates", to_json(row.success_rates)},
                          {"anytime", to_json(row.anytime)},
                          {"worst", row.worst}});
  const Json all = {{"title", results.title()},
                    {"seed", results.seed()},
                    {"repeats", results.repeats()},
                    {"runs", results.done()},
                    {"planned", results.planned()},
                    {"problems", problems},
                    {"groups", groups},
                    {"scaling", scaling},
                    {"robustness", robustness},
                    {"sentences", comparison_sentences(parts, true)}};
  return all.dump();
}

} // namespace tanzen
