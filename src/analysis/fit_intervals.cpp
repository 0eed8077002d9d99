#include "tanzen/analysis/fit_intervals.hpp"

#include "tanzen/analysis/fit_statistics.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/numeric/random.hpp"
#include "tanzen/problem/definition.hpp"
#include "tanzen/statistics/distributions.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

RunOptions quiet_run(const Vector& start) {
  RunOptions options{.start = Coordinates(start)};
  options.trace.most_rows = 2;
  return options;
}

/// The sum as a function of one parameter, least over the others, which go on from where they were.
class Profile {
 public:
  Profile(const Problem& problem, const Method& by, Index parameter, Vector from)
      : problem_(problem), by_(by), parameter_(parameter), from_(std::move(from)) {}

  double operator()(double value) {
    Vector lower = problem_.bounds().lower(), upper = problem_.bounds().upper();
    lower[parameter_] = upper[parameter_] = from_[parameter_] = value;
    if (from_.size() == 1) return problem_.value(Coordinates(from_));
    const Outcome outcome = run(problem_.bounds(lower, upper), by_, quiet_run(from_));
    if (outcome.point.allFinite()) from_ = outcome.point;
    return outcome.value;
  }

 private:
  const Problem& problem_;
  const Method& by_;
  Index parameter_;
  Vector from_;
};

/// Where the profile crosses a level, away from `best` in steps of `step`.
double crossing(Profile profile, double best, double step, double bound, double level) {
  constexpr double farthest = 1000;
  constexpr int most = 60;
  double inside = best, outside = best;
  for (double length = 1; outside == best; length *= 1.6) {
    if (length > farthest) return step > 0 ? infinity : -infinity;
    const double reached = best + length * step;
    const bool at_bound = step > 0 ? reached >= bound : reached <= bound;
    const double value = at_bound ? bound : reached;
    if (profile(value) > level)
      outside = value;
    else if (at_bound)
      return bound;
    else
      inside = value;
  }
  for (int k = 0; k < most && std::abs(outside - inside) > 1e-7 * std::abs(step); ++k) {
    const double middle = 0.5 * (inside + outside);
    (profile(middle) > level ? outside : inside) = middle;
  }
  return inside;
}

} // namespace

std::vector<ParameterInterval> profile_intervals(const Fit& made, const Method& by, double confidence) {
  const FitStatistics fit = fit_statistics(made.problem, made.outcome.point);
  const auto& loss = dynamic_cast<const LossSum&>(*made.problem.scalarization()).loss();
  if (loss.kind != Loss::Kind::squares)
    throw ProblemError(
        "profiles belong to sums of squares: use the intervals of the linearized model, or the bootstrap");
  std::vector<ParameterInterval> intervals(fit.parameters.size(), {not_known, not_known});
  if (fit.degrees_of_freedom < 1) return intervals;
  const auto degrees = static_cast<double>(fit.degrees_of_freedom);
  const double quantile = fisher_quantile(1, degrees, confidence);
  const double level = fit.sum * (1 + quantile / degrees);
  for (std::size_t i = 0; i < intervals.size(); ++i) {
    const ParameterEstimate& each = fit.parameters[i];
    if (!(each.error > 0)) continue;
    const auto parameter = static_cast<Index>(i);
    const Bounds& bounds = made.problem.bounds();
    const double step = std::sqrt(quantile) * each.error;
    intervals[i] = {crossing({made.problem, by, parameter, made.outcome.point}, each.value, -step,
                             bounds.lower()[parameter], level),
                    crossing({made.problem, by, parameter, made.outcome.point}, each.value, step,
                             bounds.upper()[parameter], level)};
  }
  return intervals;
}

std::vector<ParameterInterval> bootstrap_intervals(const Fit& made, const Method& by, const BootstrapOptions& options) {
  const auto& definition = made.problem.definition();
  const FitStatistics fit = fit_statistics(made.problem, made.outcome.point);
  const auto columns = definition != nullptr && definition->fit ? observed_columns(*definition->fit)
                                                                : std::vector<std::optional<Index>>();
  if (columns.empty() || std::ranges::any_of(columns, [](const auto& column) { return !column; }))
    throw ProblemError(
        fmt::format("{} is not built from models with a column of data on their left, of which others could be drawn",
                    made.problem.name()));
  const DataTable& table = *definition->fit->table;
  const auto each = static_cast<Index>(columns.size());
  const auto& sum = dynamic_cast<const LossSum&>(*made.problem.scalarization());
  const Index m = fit.residuals.size();
  Vector drawn_from(m), weights(m);
  std::vector<Index> counting; // of those with a weight
  for (Index k = 0; k < m; ++k) {
    weights[k] = sum.weight(k);
    drawn_from[k] = fit.residuals[k] / std::sqrt(std::max(1e-12, 1 - fit.leverages[k]));
  }
  for (Index k = 0; k < m; ++k)
    if (weights[k] > 0) counting.push_back(k);
  drawn_from.array() -= drawn_from(counting).mean();
  const auto n = fit.parameters.size();
  std::vector<std::vector<double>> ratios(n);
  for (Index sample = 0; sample < options.samples; ++sample) {
    RandomStream random(options.seed, {"bootstrap", sample});
    DataTable other = table;
    for (const Index k : counting) {
      const Index drawn = counting[static_cast<std::size_t>(random.below(static_cast<Index>(counting.size())))];
      other.rows(k / each, *columns[static_cast<std::size_t>(k % each)]) +=
          (drawn_from[drawn] - fit.residuals[k]) / weights[k];
    }
    ProblemDefinition changed = *definition;
    changed.fit->table = std::make_shared<DataTable>(std::move(other));
    changed.fit->loss = sum.loss();
    const Problem problem = build_problem(changed);
    const Outcome outcome = run(problem, by, quiet_run(made.outcome.point));
    const FitStatistics again = fit_statistics(problem, outcome.point);
    for (std::size_t i = 0; i < n; ++i) {
      const double ratio = (again.parameters[i].value - fit.parameters[i].value) / again.parameters[i].error;
      if (std::isfinite(ratio)) ratios[i].push_back(ratio);
    }
  }
  std::vector<ParameterInterval> intervals(n, {not_known, not_known});
  for (std::size_t i = 0; i < n; ++i) {
    std::vector<double>& sorted = ratios[i];
    const double error = fit.parameters[i].error;
    if (sorted.size() < 20 || !(error > 0)) continue;
    std::ranges::sort(sorted);
    const auto at = [&](double part) {
      const double place = part * static_cast<double>(sorted.size() + 1) - 1;
      return sorted[static_cast<std::size_t>(
          std::clamp(std::round(place), 0.0, static_cast<double>(sorted.size() - 1)))];
    };
    const double tail = 0.5 * (1 - options.confidence);
    intervals[i] = {fit.parameters[i].value - at(1 - tail) * error, fit.parameters[i].value - at(tail) * error};
  }
  return intervals;
}

} // namespace tanzen
