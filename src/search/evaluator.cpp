#include "tanzen/search/evaluator.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/problem/differences.hpp"

#include <cmath>
#include <exception>
#include <fmt/format.h>

namespace tanzen {
namespace {

std::int64_t limit_or_none(const std::optional<std::int64_t>& limit) {
  return limit.value_or(std::numeric_limits<std::int64_t>::max());
}

} // namespace

Evaluator::Evaluator(const Problem& problem, const StopRules& rules, DerivativeMode derivative)
    : problem_(problem), worker_(problem.objective().worker()), dimension_(problem.dimension()), sign_(problem.sign()),
      bounded_(problem.bounds().any()), has_time_limit_(rules.seconds.has_value()),
      evaluation_limit_(limit_or_none(rules.evaluations)), seconds_limit_(rules.seconds.value_or(0)),
      began_(std::chrono::steady_clock::now()), best_point_(dimension_) {
  const Derivatives has = problem.objective().derivatives();
  if (derivative == DerivativeMode::exact && has == Derivatives::none) {
    throw ProblemError(fmt::format(
        "{} is an opaque function without an exact derivative; use forward or central differences", problem.name()));
  }
  const bool differences = derivative == DerivativeMode::forward || derivative == DerivativeMode::central;
  exact_ = !differences && has != Derivatives::none;
  exact_hessian_ = exact_ && has == Derivatives::hessian;
  central_ = derivative != DerivativeMode::forward;
}

double Evaluator::seconds() const {
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - began_).count();
}

void Evaluator::set_target(double target, std::string message) {
  target_ = target;
  target_message_ = std::move(message);
}

void Evaluator::check_limits() const {
  if (counts_.evaluations >= evaluation_limit_) {
    throw RunEnded{Status::evaluations,
                   fmt::format("the limit of {} is reached", counted(evaluation_limit_, "evaluation"))};
  }
  if (has_time_limit_ && seconds() >= seconds_limit_) {
    throw RunEnded{Status::time, fmt::format("the limit of {} s is reached", number_text(seconds_limit_))};
  }
}

double Evaluator::raw_value(const Vector& x) {
  try {
    return worker_->value(x);
  } catch (const std::exception& error) {
    objective_threw(x, error.what());
  }
}

void Evaluator::objective_threw(const Vector& x, const char* what) const {
  throw RunEnded{Status::failed, fmt::format("the objective failed at {}: {}", point_text(x), what)};
}

double Evaluator::note_no_number(const Vector& x, double value) {
  ++events_.outside_domain;
  if (value == -infinity) {
    throw RunEnded{Status::diverged, fmt::format("the value is without limit at {}: it has no best", point_text(x))};
  }
  return infinity;
}

void Evaluator::note_better(const Vector& x, double value) {
  if (bounded_ && !bounds().contains(x)) {
    ++events_.outside_bounds;
    return;
  }
  best_value_ = value;
  best_point_ = x;
  best_at_ = counts_.evaluations;
  has_best_ = true;
  if (value <= target_) throw RunEnded{Status::target, target_message_};
}

const Vector& Evaluator::gradient(const Vector& x) {
  const bool at_start = is_first_at_start(x);
  if (exact_) {
    double value = 0;
    exact_gradient(x, value);
  } else {
    difference_gradient(x, central_ ? 0 : (*this)(x));
  }
  note_gradient(x, at_start);
  return gradient_;
}

Evaluator::ValueAndGradient Evaluator::value_and_gradient(const Vector& x) {
  const bool at_start = is_first_at_start(x);
  double value = 0;
  if (exact_) {
    before_evaluation();
    ++counts_.evaluations;
    exact_gradient(x, value);
    value = noted(x, value);
  } else {
    value = (*this)(x);
    difference_gradient(x, value);
  }
  note_gradient(x, at_start);
  return {value, gradient_};
}

template <class Ask>
void Evaluator::ask(const Vector& x, std::int64_t& count, Ask&& function) {
  if (has_time_limit_) check_limits();
  ++count;
  try {
    function(*worker_);
  } catch (const std::exception& error) {
    objective_threw(x, error.what());
  }
}

void Evaluator::exact_gradient(const Vector& x, double& value) {
  ask(x, counts_.gradients, [&](FunctionWorker& worker) { value = sign_ * worker.gradient(x, gradient_); });
  if (sign_ < 0) gradient_ = -gradient_;
}

void Evaluator::difference_gradient(const Vector& x, double value) {
  gradient_.resize(dimension_);
  probe_ = x;
  for (Index i = 0; i < dimension_; ++i) {
    const double lower = bounds().lower()[i], upper = bounds().upper()[i];
    const DifferencePair pair = central_ ? central_pair(x[i], lower, upper) : forward_pair(x[i], lower, upper);
    double down_value = value;
    if (central_) {
      probe_[i] = pair.down;
      down_value = (*this)(probe_);
    }
    probe_[i] = pair.up;
    const double up_value = (*this)(probe_);
    probe_[i] = x[i];
    // A variable that its bounds hold fast has no slope to follow.
    gradient_[i] = pair.up == pair.down ? 0 : (up_value - down_value) / (pair.up - pair.down);
  }
}

bool Evaluator::is_first_at_start(const Vector& x) {
  if (gradient_asked_) return false;
  gradient_asked_ = true;
  return best_at_ == 1 && x == best_point_;
}

void Evaluator::note_gradient(const Vector& x, bool at_start) {
  if (at_start) start_gradient_norm_ = bounds().projected_gradient_norm(x, gradient_);
  // The sum is a number where all entries are, and is found much faster than by asking each.
  if (!std::isfinite(gradient_.sum())) ++events_.broken_gradients;
}

const Matrix& Evaluator::hessian(const Vector& x) {
  if (exact_hessian_) {
    ask(x, counts_.hessians, [&](FunctionWorker& worker) { worker.hessian(x, hessian_); });
    if (sign_ < 0) hessian_ = -hessian_;
    return hessian_;
  }
  hessian_.resize(dimension_, dimension_);
  moved_ = x;
  for (Index i = 0; i < dimension_; ++i) {
    const DifferencePair pair = central_pair(x[i], bounds().lower()[i], bounds().upper()[i]);
    if (pair.up == pair.down) {
      hessian_.col(i).setZero(); // a variable that its bounds hold fast
      continue;
    }
    moved_[i] = pair.down;
    hessian_.col(i) = -gradient(moved_);
    moved_[i] = pair.up;
    hessian_.col(i) += gradient(moved_);
    hessian_.col(i) /= pair.up - pair.down;
    moved_[i] = x[i];
  }
  symmetrize(hessian_);
  return hessian_;
}

void Evaluator::hessian_times(const Vector& x, const Vector& at_x, const Vector& direction, Vector& product) {
  if (exact_hessian_) {
    ask(x, counts_.gradients, [&](FunctionWorker& worker) { worker.hessian_times(x, direction, product); });
    if (sign_ < 0) product = -product;
    return;
  }
  // Nocedal and Wright, 2006, equation 8.20, with the step in proportion to the point.
  const double length = direction.norm();
  if (length == 0) {
    product.setZero(dimension_);
    return;
  }
  const double step = std::sqrt(std::numeric_limits<double>::epsilon()) * (1 + x.norm()) / length;
  product = at_x; // kept before the evaluator's own gradient changes
  moved_ = x + step * direction;
  product = (gradient(moved_) - product) / step;
}

} // namespace tanzen
