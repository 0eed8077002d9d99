#include "fit_report.hpp"

#include "tanzen/analysis/fit_hints.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/problem/definition.hpp"
#include "tanzen/report/table.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace tanzen::cli {
namespace {

using Json = nlohmann::ordered_json;

constexpr double notable_correlation = 0.95;

Json number_or_null(double value) {
  return std::isfinite(value) ? Json(value) : Json(nullptr);
}

std::string estimates_table(const FitStatistics& statistics, std::size_t width) {
  Table table;
  table.column("parameter", Table::Align::left);
  for (const char* heading : {"value", "std. error", "95 % from", "to"}) table.column(heading);
  table.column("", Table::Align::left);
  for (const ParameterEstimate& each : statistics.parameters) {
    const auto cell = [](double number) { return std::isnan(number) ? std::string("-") : short_number(number, 6); };
    const std::string why = each.is_held             ? "held by its bound"
                            : std::isnan(each.error) ? "not determined by the data"
                                                     : "";
    table.row({each.name, short_number(each.value, 8), cell(each.error), cell(each.lower), cell(each.upper), why});
  }
  return table.text(width);
}

std::string size_text(const FitStatistics& statistics) {
  if (statistics.degrees_of_freedom < 1)
    return block_line("residuals", "as many parameters as rows: nothing is left to tell their size by");
  std::string text =
      fmt::format("residual standard deviation {}, {} of freedom", short_number(statistics.residual_sd, 6),
                  counted(statistics.degrees_of_freedom, "degree"));
  if (!std::isnan(statistics.r_squared)) text += fmt::format(", R squared {}", short_number(statistics.r_squared, 6));
  return block_line("residuals", text);
}

std::string correlations_text(const FitStatistics& statistics) {
  std::string text;
  const auto n = static_cast<Index>(statistics.parameters.size());
  for (Index i = 0; i < n; ++i) {
    for (Index j = i + 1; j < n; ++j) {
      if (!(std::abs(statistics.correlation(i, j)) > notable_correlation)) continue;
      text += block_line(text.empty() ? "correlated" : "",
                         fmt::format("{} and {}: {}", statistics.parameters[static_cast<std::size_t>(i)].name,
                                     statistics.parameters[static_cast<std::size_t>(j)].name,
                                     short_number(statistics.correlation(i, j), 4)));
    }
  }
  return text;
}

/// How many residuals a row has, and whose they are.
std::vector<std::string> observed_names(const Problem& problem) {
  std::vector<std::string> names;
  if (problem.definition() == nullptr || !problem.definition()->fit) return {""};
  for (const FitEquation& each : problem.definition()->fit->equations) names.push_back(split(each.model, '=').front());
  return names;
}

std::string standing_out_text(const FitStatistics& statistics, const std::vector<std::string>& observed) {
  constexpr std::size_t most = 5;
  const std::vector<Index>& rows = statistics.stand_out;
  const auto each = static_cast<Index>(observed.size());
  std::vector<std::string> named;
  for (std::size_t k = 0; k < std::min(most, rows.size()); ++k)
    named.push_back(fmt::format("{}row {} by {} of its own errors",
                                each > 1 ? observed[static_cast<std::size_t>(rows[k] % each)] + " in " : "",
                                rows[k] / each + 1, short_number(std::abs(statistics.studentized[rows[k]]), 3)));
  if (rows.size() > most) named.push_back(fmt::format("{} more", rows.size() - most));
  return named.empty() ? std::string() : block_line("stand out", joined(named, ", "));
}

std::string lack_text(const FitStatistics& statistics) {
  if (!statistics.lack_of_fit) return "";
  const LackOfFit& lack = *statistics.lack_of_fit;
  return block_line("lack of fit", fmt::format("{} of repeated rows, F {}, p {}: {}", counted(lack.groups, "group"),
                                               short_number(lack.ratio, 3), short_number(lack.p, 2),
                                               lack.p < 0.05 ? "the model leaves more than the repeats explain"
                                                             : "the repeats explain what the model leaves"));
}

} // namespace

std::string fit_text(const Fit& made, const FitStatistics& statistics, const std::vector<AtPoint>& predictions,
                     std::string_view intervals, std::size_t width) {
  const Outcome& outcome = made.outcome;
  const auto& loss = dynamic_cast<const LossSum&>(*made.problem.scalarization()).loss();
  const bool is_squares = loss.kind == Loss::Kind::squares;
  const std::vector<std::string> observed = observed_names(made.problem);
  const auto each = static_cast<Index>(observed.size());
  std::string text =
      fmt::format("\n  {}, {}{}, {}    {}\n", made.problem.name(), counted(statistics.residuals.size() / each, "row"),
                  each > 1 ? fmt::format(" of {}", joined(observed, " and ")) : "",
                  counted(static_cast<long long>(statistics.parameters.size()), "parameter"), made.method);
  text += fmt::format("  start {}\n", point_text(made.start));
  if (!made.start_told.empty()) text += fmt::format("        {}\n", made.start_told);
  text += '\n';
  text += block_line(outcome.converged() ? "converged" : "stopped", outcome.message);
  text += block_line(
      is_squares ? "squares" : "losses",
      fmt::format("sum {} before, {} after", short_number(made.sum_before, 8), short_number(statistics.sum, 8)));
  if (!is_squares)
    text += block_line("loss", fmt::format("{}:{}{}", split(loss.text(), ':').front(), short_number(loss.scale, 6),
                                           made.scale_rounds > 0 ? ", its scale estimated from the residuals" : ""));
  if (!made.second_told.empty()) text += block_line("second", made.second_told);
  text += block_line("effort", fmt::format("{}, {}", counted(outcome.iterations, "iteration"),
                                           counted(outcome.counts[Spent::evaluations], "evaluation")));
  text += '\n';
  text += estimates_table(statistics, width);
  text += '\n';
  if (intervals == "profile") text += block_line("intervals", "by the profile of the sum of squares");
  if (intervals == "bootstrap") text += block_line("intervals", "by 999 samples with residuals drawn anew");
  text += size_text(statistics);
  text += correlations_text(statistics) + standing_out_text(statistics, observed) + lack_text(statistics);
  for (const AtPoint& at : predictions) {
    const Prediction& there = at.prediction;
    const std::string of_new =
        std::isnan(there.half_width_of_new)
            ? std::string()
            : fmt::format(" (a new observation within {})", short_number(there.half_width_of_new, 4));
    text += block_line(fmt::format("at {}", at.where),
                       fmt::format("{} {}, 95 % within {}{}", at.what, short_number(there.value, 8),
                                   short_number(there.half_width, 4), of_new));
  }
  for (const std::string& hint : fit_hints(made, statistics)) text += block_line("hint", hint);
  return text;
}

std::string fit_json(const Fit& made, const FitStatistics& statistics, const std::vector<AtPoint>& predictions,
                     std::string_view intervals) {
  Json parameters = Json::array(), at = Json::array(), undetermined = Json::array();
  for (const ParameterEstimate& each : statistics.parameters)
    parameters.push_back({{"name", each.name},
                          {"value", each.value},
                          {"error", number_or_null(each.error)},
                          {"lower", number_or_null(each.lower)},
                          {"upper", number_or_null(each.upper)}});
  for (const AtPoint& each : predictions)
    at.push_back({{"at", each.where},
                  {"what", each.what},
                  {"value", number_or_null(each.prediction.value)},
                  {"error", number_or_null(each.prediction.error)},
                  {"half_width", number_or_null(each.prediction.half_width)},
                  {"half_width_of_new", number_or_null(each.prediction.half_width_of_new)}});
  for (const Vector& direction : statistics.undetermined)
    undetermined.push_back(std::vector<double>(direction.begin(), direction.end()));
  const Outcome& outcome = made.outcome;
  return Json({{"parameters", parameters},
               {"sum_before", number_or_null(made.sum_before)},
               {"sum_after", number_or_null(statistics.sum)},
               {"residual_sd", number_or_null(statistics.residual_sd)},
               {"degrees_of_freedom", statistics.degrees_of_freedom},
               {"r_squared", number_or_null(statistics.r_squared)},
               {"status", std::string(status_word(outcome.status))},
               {"converged", outcome.converged()},
               {"message", outcome.message},
               {"checked",
                {{"stationary", std::string(verdict_word(outcome.checked.verdict))},
                 {"relative_gradient", number_or_null(outcome.checked.relative_gradient)},
                 {"how", outcome.checked.how}}},
               {"evaluations", outcome.counts[Spent::evaluations]},
               {"iterations", outcome.iterations},
               {"method", made.method},
               {"second", made.second_told},
               {"start", std::vector<double>(made.start.begin(), made.start.end())},
               {"intervals", std::string(intervals)},
               {"stand_out", statistics.stand_out},
               {"undetermined", undetermined},
               {"predictions", at},
               {"hints", fit_hints(made, statistics)}})
      .dump();
}

} // namespace tanzen::cli
