#include "run_outcome.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/numeric/constants.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// What the best value may be lower by because its point breaks the constraints more than the last one does: the
/// multipliers there times its violation, and half as much again for what bends; where they are not known, the
/// tolerance in units of the value.
double bought(const Problem& problem, const Incumbent& best, const RunEnd& end) {
  if (!(best.violation() > end.last_violation)) return 0;
  double price = 0;
  for (const ConstraintState& row :
       check_point(problem, end.last_point, {.feasibility = best.feasibility()}).constraints)
    price += std::abs(row.multiplier);
  if (!std::isfinite(price)) return best.feasibility() * (1 + std::abs(best.value()));
  return 1.5 * price * best.violation();
}

/// Whether the last point is reported although another one is lower: a settled point is what the status is about, and
/// rounding, or a violation within the tolerance, lowers nothing.
bool last_is_reported(const Problem& problem, const Incumbent& best, const RunEnd& end) {
  if (!std::isfinite(end.last_value) || !best.has_point()) return false;
  if (end.ended.status == Status::proved) return true; // others may be lower by what they break
  // Of a run that stalled, where the best point is one that breaks the constraints more.
  const bool has_stalled = end.ended.status == Status::stalled && best.violation() > end.last_violation;
  if (!is_settled(end.ended.status) && !has_stalled) return false;
  if (best.is_feasible() && !(end.last_violation <= best.feasibility())) return false;
  const double rounding = 1e-12 * (1 + std::abs(best.value()));
  return end.last_value <= best.value() + rounding || end.last_value <= best.value() + bought(problem, best, end);
}

void note_point(const Problem& problem, const Evaluator& evaluate, RunEnd& end, Outcome& result) {
  const Incumbent& best = evaluate.incumbent();
  const double sign = problem.sign();
  result.last_value = sign * end.last_value;
  if (problem.objectives().size() < 2 && last_is_reported(problem, best, end)) {
    result.point = end.last_point;
    result.value = sign * end.last_value;
    result.violation = end.last_violation;
  } else {
    result.point = best.has_point() ? best.point() : end.start;
    result.value = best.has_point() ? sign * best.value() : not_known;
    result.violation = best.has_point() ? best.violation() : problem.bounds().violation(end.start);
  }
  result.last_point = std::move(end.last_point);
  result.feasible = best.has_point() && result.violation <= best.feasibility();
}

void note_minima(const Problem& problem, const Evaluator& evaluate, Outcome& result) {
  const double sign = problem.sign();
  result.minima = evaluate.minima().all();
  for (FoundMinimum& minimum : result.minima) minimum.value *= sign;
  std::ranges::stable_sort(result.minima,
                           [&](const auto& a, const auto& b) { return sign * a.value < sign * b.value; });
}

void note_proof(const Problem& problem, const Evaluator& evaluate, Outcome& result) {
  result.proof = evaluate.proof();
  if (!result.proof || problem.sign() > 0) return;
  std::swap(result.proof->lower, result.proof->upper);
  result.proof->lower = -result.proof->lower;
  result.proof->upper = -result.proof->upper;
}

void note_known(const Problem& problem, Outcome& result) {
  result.best_known = problem.best_value();
  if (result.best_known && !std::isnan(result.value)) {
    // A lucky draw of noise is no gap.
    const bool is_noisy = problem.is_noisy() && problem.objectives().size() <= 1;
    const double value = is_noisy ? problem.exact().unheard().objective().worker()->value(result.point) : result.value;
    result.gap = sign_of(problem.value_sense()) * (value - *result.best_known);
  }
  if (problem.objectives().size() > 1) return;
  for (const KnownMinimum& minimum : problem.known_minima()) {
    if (!minimum.global) continue;
    ++result.known_points;
    const double away = (result.point - minimum.point).norm();
    if (!result.distance || away < *result.distance) result.distance = away;
  }
}

/// The front by its first objective, and what it covers.
void note_front(const Problem& problem, const Evaluator& evaluate, Outcome& result) {
  result.objectives = problem.objectives();
  if (result.objectives.size() < 2) return;
  result.front = evaluate.incumbent().front();
  std::ranges::sort(result.front, {}, [](const FrontPoint& each) { return each.objectives[0]; });
  result.value = result.last_value = evaluate.incumbent().covered();
  result.sense = problem.value_sense();
  result.feasible = !result.front.empty();
  for (FrontPoint& each : result.front) {
    for (std::size_t k = 0; k < result.objectives.size(); ++k)
      each.objectives[static_cast<Index>(k)] *= sign_of(result.objectives[k].sense);
  }
}

/// It got better to its end, so that it may be a fall without one.
bool has_fallen_deep(const Outcome& outcome) {
  return sign_of(outcome.sense) * (outcome.start_value - outcome.value) > 1e6 * (1 + std::abs(outcome.start_value));
}

bool is_worth_looking(const Outcome& outcome) {
  const bool is_lost = outcome.status == Status::diverged && !has_fallen_deep(outcome);
  return outcome.status != Status::failed && !is_lost && !std::isnan(outcome.value);
}

/// A fall without end is why a run that was not cut short has ended, whatever its method has found.
void note_fall(Outcome& outcome, bool has_ended) {
  if (!outcome.checked.fall || !has_ended) return;
  outcome.status = Status::unbounded;
  outcome.message = to_text(*outcome.checked.fall, outcome.sense);
}

} // namespace

Outcome outcome_of(const Problem& problem, const Method& method, const RunOptions& options, const Evaluator& evaluate,
                   RunEnd end) {
  Outcome result;
  result.problem = problem.name();
  result.method = method.name();
  result.method_label = method.label();
  result.settings = method.settings();
  result.variable_names = problem.variable_names();
  result.sense = problem.sense();
  result.seed = options.seed;
  result.status = end.ended.status;
  result.message = std::move(end.ended.message);
  result.start_value = end.start_value;
  note_point(problem, evaluate, end, result);
  result.start = std::move(end.start);
  result.gradient_norm = end.gradient_norm;
  result.kkt = end.kkt;
  result.iterations = end.iterations;
  result.counts = evaluate.counts();
  result.evaluations_to_best = evaluate.incumbent().found_at();
  result.milestones = evaluate.incumbent().milestone_counts();
  result.events = evaluate.events();
  note_minima(problem, evaluate, result);
  note_proof(problem, evaluate, result);
  result.seconds = end.seconds;
  note_front(problem, evaluate, result);
  note_known(problem, result);
  if ((may_be_converged(result.status) || result.status == Status::stalled) && !evaluate.incumbent().has_point()) {
    result.status = Status::failed;
    result.message = "no point had a value: " + result.message;
  }
  return result;
}

void check_outcome(const Problem& problem, const RunOptions& options, Outcome& outcome) {
  if (!is_worth_looking(outcome)) return;
  const double tolerance = options.stop.gradient_tolerance.value_or(0);
  const bool is_proved = outcome.status == Status::proved; // within the region, which the function may fall beyond
  const bool is_deep = outcome.status == Status::unbounded || outcome.status == Status::diverged;
  const bool is_claim = may_be_converged(outcome.status) && outcome.status != Status::target;
  outcome.checked = check_point(problem, outcome.point,
                                {.feasibility = options.stop.feasibility,
                                 .start_value = outcome.start_value,
                                 .tolerance = std::max(1e-5, tolerance),
                                 .by_values = is_claim || is_deep || options.check_end,
                                 .opaque = options.check_end || is_deep,
                                 .start = is_proved ? Vector() : outcome.start});
  const PointCheck& checked = outcome.checked;
  note_fall(outcome, is_claim || is_deep || outcome.status == Status::stalled);
  // Nothing lower is to be found where the slope is as small as was asked for.
  if (outcome.status == Status::stalled && checked.relative_gradient <= tolerance && outcome.feasible) {
    outcome.message = fmt::format("relative gradient {} is below {}; {}", short_number(checked.relative_gradient, 2),
                                  short_number(tolerance), outcome.message);
    outcome.status = Status::gradient;
  }
  const bool is_elsewhere = is_settled(outcome.status) && outcome.point != outcome.last_point;
  if (is_elsewhere && checked.verdict == PointCheck::Verdict::not_stationary)
    outcome.message += fmt::format(", at {} with value {}; the best point seen is another one",
                                   point_text(outcome.last_point, 4), short_number(outcome.last_value, 6));
}

} // namespace tanzen
