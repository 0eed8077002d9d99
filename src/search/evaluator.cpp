#include "tanzen/search/evaluator.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include "evaluator_run.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <stdexcept>
#include <utility>

namespace tanzen {
namespace {

Vector signs_of(const Problem& problem) {
  Vector signs(problem.parts().objectives);
  for (std::size_t k = 0; k < problem.objectives().size(); ++k)
    signs[static_cast<Index>(k)] = sign_of(problem.objectives()[k].sense);
  return signs;
}

} // namespace

Evaluator::Evaluator(const Problem& problem, const StopRules& rules, DerivativeMode derivative, Team team,
                     std::function<bool()> asked_to_stop)
    : own_(std::make_unique<Run>(problem, rules, std::move(team), std::move(asked_to_stop))), run_(own_.get()),
      ledger_(&run_->ledger), incumbent_(&run_->incumbent), visitor_(&run_->visitor),
      scalarization_(problem.scalarization().get()), counts_(problem.parts()), dimension_(problem.dimension()),
      is_own_(true), is_short_(counts_.constraints == 0 && counts_.objectives <= 1), sign_(problem.sign()),
      signs_(signs_of(problem)) {
  const Derivatives has = is_short_ ? problem.objective().derivatives() : problem.bundle()->derivatives();
  if (derivative == DerivativeMode::exact && has == Derivatives::none) {
    throw ProblemError(fmt::format(
        "{} is an opaque function without an exact derivative; use forward or central differences", problem.name()));
  }
  const bool differences = derivative == DerivativeMode::forward || derivative == DerivativeMode::central;
  exact_ = !differences && has != Derivatives::none;
  exact_hessian_ = exact_ && has == Derivatives::hessian;
  central_ = derivative != DerivativeMode::forward;
}

Evaluator::Evaluator(Run& run, const Scalarization& scalarization, const Evaluator& like)
    : run_(&run), ledger_(&run.ledger), incumbent_(&run.incumbent), visitor_(&run.visitor),
      scalarization_(&scalarization), counts_(like.counts_), dimension_(like.dimension_), is_own_(false),
      is_short_(false), sign_(like.sign_), signs_(like.signs_), exact_(like.exact_),
      exact_hessian_(like.exact_hessian_), central_(like.central_) {}

Evaluator::~Evaluator() = default;

Evaluator Evaluator::with(const Scalarization& other) const {
  return {*run_, other, *this};
}

const Problem& Evaluator::problem() const {
  return run_->problem;
}
double Evaluator::start_gradient_norm() const {
  return run_->start_gradient_norm;
}
const FoundMinima& Evaluator::minima() const {
  return run_->minima;
}
void Evaluator::prove(Proof proof) {
  run_->proof = std::move(proof);
}
const std::optional<Proof>& Evaluator::proof() const {
  return run_->proof;
}

void Evaluator::wrong_length(Index length) const {
  throw std::logic_error(fmt::format("it asked for a point of {}; {} has {}", counted(length, "coordinate"),
                                     problem().name(), counted(dimension_, "variable")));
}

Events Evaluator::events() const {
  Events events = visitor_->events();
  events.outside_bounds = incumbent_->outside_bounds();
  return events;
}

double Evaluator::note_no_number(const Vector& x, double value) {
  if (visitor_->was_broken()) return infinity;
  ++visitor_->events().outside_domain;
  if (value == -infinity) {
    throw RunEnded{Status::unbounded, fmt::format("the value is without limit at {}: it has no best", point_text(x))};
  }
  return infinity;
}

void Evaluator::note_parts(const Vector& x, Vector& parts, Evaluation& evaluation) {
  turn_objectives(parts);
  evaluation = Evaluation(parts, counts_);
  if (!parts.allFinite()) {
    evaluation.violation = infinity;
    evaluation.value = note_no_number(x, is_own_ ? scalarization_->value(evaluation) : infinity);
    return;
  }
  evaluation.violation = violation_of(problem().constraints(), evaluation.constraints());
  evaluation.value = scalarization_->value(evaluation);
  const double own = is_own_ ? evaluation.value : problem().scalarization()->value(evaluation);
  incumbent_->see(x, own, evaluation, ledger_->counts());
  if (!(std::abs(evaluation.value) < infinity)) evaluation.value = infinity;
}

const Evaluation& Evaluator::at(const Vector& x) {
  check_length(x);
  ledger_->spend_evaluation();
  visitor_->parts(x, parts_);
  note_parts(x, parts_, evaluation_);
  return evaluation_;
}

void Evaluator::values(const Matrix& points, Vector& values) {
  check_length(points);
  if (!is_short_) {
    values = at(points).values;
    return;
  }
  const Index count = points.cols();
  values.resize(count);
  const bool is_batch = visitor_->is_batch(false);
  // No more is computed than the limit allows; then the count ends the run where one at a time would have.
  if (is_batch)
    visitor_->batch(points, std::min<std::int64_t>(count, std::max<std::int64_t>(0, ledger_->evaluations_left())),
                    false, batch_);
  for (Index k = 0; k < count; ++k) {
    probe_ = points.col(k);
    if (!is_batch) {
      values[k] = (*this)(probe_);
      continue;
    }
    ledger_->spend_evaluation();
    visitor_->look_at(k, probe_, batch_);
    values[k] = noted(probe_, sign_ * batch_(0, k));
  }
}

const Evaluations& Evaluator::at(const Matrix& points) {
  check_length(points);
  const Index count = points.cols();
  evaluations_.parts.resize(counts_.all(), count);
  evaluations_.values.resize(count);
  evaluations_.violations.resize(count);
  evaluations_.counts = counts_;
  const bool is_batch = visitor_->is_batch(true);
  if (is_batch)
    visitor_->batch(points, std::min<std::int64_t>(count, std::max<std::int64_t>(0, ledger_->evaluations_left())), true,
                    batch_);
  for (Index k = 0; k < count; ++k) {
    probe_ = points.col(k);
    ledger_->spend_evaluation();
    if (is_batch) {
      visitor_->look_at(k, probe_, batch_);
      parts_ = batch_.col(k);
    } else {
      visitor_->parts(probe_, parts_);
    }
    note_parts(probe_, parts_, evaluation_);
    evaluations_.parts.col(k) = parts_;
    evaluations_.values[k] = evaluation_.value;
    evaluations_.violations[k] = evaluation_.violation;
  }
  return evaluations_;
}

void Evaluator::found_minimum(const Vector& x, double value) {
  check_length(x);
  if (run_->minima.all().empty()) run_->minima = FoundMinima(problem().region()); // most methods never need it
  run_->minima.add(x, value);
}

} // namespace tanzen
