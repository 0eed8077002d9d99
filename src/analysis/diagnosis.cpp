#include "tanzen/analysis/diagnosis.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/search/noise_estimate.hpp"

#include "constraint_hints.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <iterator>
#include <span>

namespace tanzen {
namespace {

/// What the tests on a trace look at.
struct Evidence {
  const Problem& problem;
  const Outcome& outcome;
  const std::optional<Curvature>& curvature;
  std::vector<double> values; ///< to be minimized
  std::optional<Convergence> convergence = {};
};

using Hint = std::optional<std::string>;

/// The step setting of a method that keeps it fixed: the trace's step column does not change.
std::optional<double> fixed_step(const Outcome& outcome) {
  if (!outcome.trace.has_column("step")) return std::nullopt;
  std::vector<double> steps = outcome.trace.column("step");
  std::erase_if(steps, [](double step) { return std::isnan(step); });
  const bool is_fixed =
      !steps.empty() && std::ranges::all_of(steps, [&](double step) { return step == steps.front(); });
  return is_fixed ? std::optional(steps.front()) : std::nullopt;
}

/// The longest stable fixed step of steepest descent, 2 divided by the largest curvature to be minimized.
std::optional<double> stable_step(const Evidence& evidence) {
  if (!evidence.curvature) return std::nullopt;
  const double largest = (evidence.problem.sign() * evidence.curvature->eigenvalues).maxCoeff();
  return largest > 0 ? std::optional(2 / largest) : std::nullopt;
}

std::string step_advice(const Evidence& evidence, double step) {
  const auto stable = stable_step(evidence);
  if (!stable || step < *stable) return fmt::format("so the step {} is too long; try a shorter one", number_text(step));
  return fmt::format("so the step {} is too long (a step below {} is stable for the curvature seen)", number_text(step),
                     short_number(*stable, 3));
}

Hint rising_values(const Evidence& evidence) {
  const auto& values = evidence.values;
  const auto step = fixed_step(evidence.outcome);
  // Of a method whose step is not known, values that rise for a while are no fault.
  const bool is_fault = step || evidence.outcome.status == Status::diverged;
  if (!is_fault || evidence.outcome.converged() || values.size() < 4) return std::nullopt;
  constexpr std::size_t most_shown = 12;
  const std::size_t looked = std::min(most_shown, values.size() - 1);
  std::size_t rises = 0;
  for (std::size_t k = values.size() - looked; k < values.size(); ++k) {
    if (values[k] > values[k - 1] || !std::isfinite(values[k])) ++rises;
  }
  if (5 * rises < 4 * looked || !(values.back() > values.front())) return std::nullopt;
  return fmt::format("the value rose in {} of the last {} iterations, {}", rises, looked,
                     step ? step_advice(evidence, *step)
                          : "so the steps are too long: take shorter ones, or search along the direction");
}

Hint two_cycle(const Evidence& evidence) {
  const Trace& trace = evidence.outcome.trace;
  constexpr std::size_t looked = 6;
  if (evidence.outcome.converged() || !trace.has_points() || trace.rows() < looked + 3) return std::nullopt;
  constexpr double same = 1e-6;
  for (std::size_t k = trace.rows() - looked; k < trace.rows(); ++k) {
    const double jump = (trace.point(k) - trace.point(k - 1)).norm();
    const bool comes_back = (trace.point(k) - trace.point(k - 2)).norm() <= same * jump;
    const bool is_neighbour = trace.at(k, Trace::iteration) == trace.at(k - 1, Trace::iteration) + 1;
    if (!(jump > 0) || !comes_back || !is_neighbour) return std::nullopt;
  }
  const std::size_t last = trace.rows() - 1;
  const std::string places = fmt::format("the path flips between the two points {} and {}",
                                         point_text(trace.point(last - 1), 4), point_text(trace.point(last), 4));
  const auto step = fixed_step(evidence.outcome);
  return step ? places + ", " + step_advice(evidence, *step) : places + " and will do so for ever";
}

Hint best_on_bound(const Evidence& evidence) {
  const Bounds& bounds = evidence.problem.bounds();
  const Vector& point = evidence.outcome.point;
  std::vector<std::string> names;
  for (Index i = 0; i < point.size(); ++i) {
    const bool is_on = point[i] <= bounds.lower()[i] || point[i] >= bounds.upper()[i];
    if (is_on) names.push_back(evidence.outcome.variable_names[static_cast<std::size_t>(i)]);
  }
  if (names.empty()) return std::nullopt;
  constexpr std::size_t most_named = 5;
  if (names.size() > most_named) {
    names.resize(most_named);
    names.emplace_back("...");
  }
  return fmt::format("the best point sits on a bound of {}: a better one may lie beyond", joined(names, ", "));
}

Hint saddle(const Evidence& evidence) {
  if (!evidence.curvature || evidence.outcome.status != Status::gradient) return std::nullopt;
  const bool is_saddle = evidence.curvature->kind == PointKind::saddle;
  const PointKind wrong = evidence.outcome.sense == Sense::minimize ? PointKind::maximum : PointKind::minimum;
  if (!is_saddle && evidence.curvature->kind != wrong) return std::nullopt;
  return fmt::format("the gradient is zero here, but the point is a {}: start a little beside it",
                     point_kind_word(evidence.curvature->kind));
}

/// The run was still making progress when its limit came.
Hint limit_too_small(const Evidence& evidence) {
  const Status status = evidence.outcome.status;
  if (status != Status::iterations && status != Status::evaluations && status != Status::time) return std::nullopt;
  const auto& values = evidence.values;
  if (values.size() < 8) return std::nullopt;
  const double middle =
      *std::min_element(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(values.size() * 3 / 4));
  const double end = *std::ranges::min_element(values);
  // A hundredth of the whole way in the last quarter is more than the tail of a settled run.
  if (!(middle - end > 0.01 * (values.front() - end))) return std::nullopt;
  return "the value was still falling when the limit came: allow more";
}

/// Every value the same: nothing to follow.
Hint flat_region(const Evidence& evidence) {
  const auto& values = evidence.values;
  const bool is_flat = std::ranges::all_of(values, [&](double value) { return value == values.front(); });
  if (values.size() < 2 || !is_flat || evidence.outcome.iterations < 1) return std::nullopt;
  // Where there is no value, or the start was the answer, nothing is flat.
  const Status status = evidence.outcome.status;
  if (!std::isfinite(values.front()) || status == Status::gradient || status == Status::unbounded) return std::nullopt;
  const bool had_slope = evidence.outcome.trace.at(0, Trace::gradient_norm) > 0;
  if (had_slope) return std::nullopt;
  return fmt::format(
      "all {} values are the same: the start lies in a flat region; begin elsewhere, or sample the region",
      values.size());
}

/// Steps at right angles to the last one, and along the one before: steepest descent across a valley.
Hint zigzag(const Evidence& evidence) {
  const Trace& trace = evidence.outcome.trace;
  constexpr std::size_t looked = 10;
  if (evidence.outcome.converged() || !trace.has_points() || trace.rows() < looked + 4) return std::nullopt;
  const auto step = [&](std::size_t row) -> Vector { return trace.point(row) - trace.point(row - 1); };
  std::size_t bends = 0;
  for (std::size_t row = trace.rows() - looked; row < trace.rows(); ++row) {
    const Vector now = step(row), before = step(row - 1), earlier = step(row - 2);
    const bool is_across = std::abs(now.dot(before)) < 0.2 * now.norm() * before.norm();
    const bool is_parallel = now.dot(earlier) > 0.9 * now.norm() * earlier.norm();
    if (is_across && is_parallel) ++bends;
  }
  if (5 * bends < 4 * looked) return std::nullopt;
  return fmt::format(
      "the path zigzags: {} of the last {} steps cross the one before at right angles; methods that remember "
      "the curvature, such as conjugate-gradient or bfgs, do not",
      bends, looked);
}

/// Linear convergence with a rate near 1.
Hint crawling(const Evidence& evidence) {
  constexpr double slow = 0.97;
  const auto& convergence = evidence.convergence;
  const bool crawls = convergence && convergence->order == ConvergenceOrder::linear && convergence->rate > slow;
  if (!crawls || evidence.outcome.converged()) return std::nullopt;
  std::string text =
      fmt::format("it crawls: each iteration leaves {} of the gradient norm", short_number(convergence->rate, 4));
  if (evidence.curvature && evidence.problem.dimension() > 1) {
    const Vector sizes = evidence.curvature->eigenvalues.cwiseAbs();
    const double condition = sizes.maxCoeff() / sizes.minCoeff();
    if (std::isfinite(condition) && condition > 10)
      return text + fmt::format(", where curvatures differ by a factor of {}; try newton, bfgs or lbfgs",
                                short_number(condition, 3));
  }
  const auto step = fixed_step(evidence.outcome);
  const auto stable = stable_step(evidence);
  if (step && stable && *step < 0.1 * *stable)
    return text + fmt::format("; the step {} could be {} and still be stable", number_text(*step),
                              short_number(*stable / 2, 3));
  return text + "; try a longer step, or a method that chooses its own";
}

/// Values that rise and fall by the same little, with no trend: noise, or the ripple of a constant step.
Hint noise_floor(const Evidence& evidence) {
  constexpr std::size_t looked = 20;
  const auto& values = evidence.values;
  if (evidence.outcome.converged() || values.size() < 2 * looked) return std::nullopt;
  const std::span last(values.end() - looked, values.end()), before(values.end() - 2 * looked, values.end() - looked);
  std::size_t turns = 0;
  for (std::size_t k = 2; k < looked; ++k) {
    if ((last[k] - last[k - 1]) * (last[k - 1] - last[k - 2]) < 0) ++turns;
  }
  const auto [least, most] = std::ranges::minmax(last);
  const auto [least_before, most_before] = std::ranges::minmax(before);
  const double spread = most - least, drift = std::abs((most + least) - (most_before + least_before)) / 2;
  const bool is_stationary = drift < 0.5 * spread && most_before - least_before < 4 * spread;
  const bool is_small = spread < 0.1 * (values.front() - least);
  if (3 * turns < looked || !is_stationary || !is_small) return std::nullopt;
  return fmt::format(
      "progress stopped at a floor: the last values rise and fall by {} without a trend; that is noise in the "
      "objective (tanzen check noise tells), or the ripple of a constant step, which a shorter or a decaying one "
      "lowers",
      short_number(spread, 2));
}

/// What the noise of a problem that is known to have some comes to where the run ended.
Hint noise_at_end(const Evidence& evidence) {
  const Outcome& outcome = evidence.outcome;
  if (!evidence.problem.is_noisy() || std::isnan(outcome.value) || outcome.status == Status::target)
    return std::nullopt;
  const NoiseEstimate noise =
      estimate_noise(evidence.problem, outcome.point, RandomStream(outcome.seed, {"noise hint"}));
  if (!noise.found || noise.level == 0) return std::nullopt;
  return fmt::format(
      "the values carry noise of about {} here: differences below it say nothing, and the best value seen "
      "is a lucky one; bfgs:noise=0 and cma-es:reevaluates=true are made for that",
      short_number(noise.level, 2));
}

Hint no_value(const Evidence& evidence) {
  if (!std::isnan(evidence.outcome.start_value)) return std::nullopt;
  return fmt::format("the objective has no value at the start {}: begin inside its domain",
                     point_text(evidence.outcome.start));
}

/// What a stationary point is called: a minimum only where the curvature says so.
std::string stationary_text(const Outcome& outcome, const std::optional<Curvature>& curvature) {
  if (!curvature) return "stationary";
  switch (curvature->kind) {
  case PointKind::minimum: return "a minimum";
  case PointKind::maximum: return "a maximum";
  case PointKind::saddle: return "a saddle";
  case PointKind::degenerate: return "stationary, the curvature degenerate";
  case PointKind::on_bounds: return outcome.checked.constraints.empty() ? "stationary, on the bounds" : "stationary";
  }
  return "stationary";
}

} // namespace

Diagnosis diagnose(const Problem& problem, const Outcome& outcome) {
  Diagnosis diagnosis;
  if (outcome.objectives.size() > 1) return diagnosis; // of a front there is no one point, and no order
  const bool has_point = !std::isnan(outcome.value);
  if (has_point)
    diagnosis.curvature = problem.constraints().empty() ? curvature_at(problem, outcome.point)
                                                        : tangent_curvature(problem, outcome.point, outcome.checked);
  Evidence evidence{problem, outcome, diagnosis.curvature, outcome.trace.column("value")};
  std::erase_if(evidence.values, [](double value) { return std::isnan(value); });
  for (double& value : evidence.values) value *= problem.sign();
  diagnosis.convergence = convergence_of(outcome.trace);
  evidence.convergence = diagnosis.convergence;
  for (const auto test : {no_value, flat_region, rising_values, two_cycle, zigzag, crawling, noise_floor, noise_at_end,
                          saddle, best_on_bound, limit_too_small}) {
    if (auto hint = test(evidence)) diagnosis.hints.push_back(std::move(*hint));
  }
  if (has_point) std::ranges::move(constraint_hints(problem, outcome), std::back_inserter(diagnosis.hints));
  return diagnosis;
}

std::string checked_text(const Outcome& outcome, const Diagnosis& diagnosis) {
  const PointCheck& checked = outcome.checked;
  if (checked.verdict != PointCheck::Verdict::stationary) return checked.how;
  const std::string curved = diagnosis.curvature ? ", " + eigenvalue_text(*diagnosis.curvature) : "";
  return fmt::format("{}: {}{}", stationary_text(outcome, diagnosis.curvature), checked.how, curved);
}

std::string to_text(const Diagnosis& diagnosis) {
  std::string text;
  if (diagnosis.convergence) text += block_line("convergence", to_text(*diagnosis.convergence));
  for (const std::string& hint : diagnosis.hints) text += block_line("hint", hint);
  return text;
}

} // namespace tanzen
