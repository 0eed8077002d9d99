#include "tanzen/search/evaluator.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/problem/differences.hpp"

#include <algorithm>
#include <cmath>
#include <exception>
#include <fmt/format.h>
#include <utility>

namespace tanzen {
namespace {

std::int64_t limit_or_none(const std::optional<std::int64_t>& limit) {
  return limit.value_or(std::numeric_limits<std::int64_t>::max());
}

} // namespace

Evaluator::Evaluator(const Problem& problem, const StopRules& rules, DerivativeMode derivative, Team team)
    : problem_(problem), worker_(problem.objective().worker()), dimension_(problem.dimension()), sign_(problem.sign()),
      bounded_(problem.bounds().any()), has_time_limit_(rules.seconds.has_value()),
      stops_on_broken_(rules.stop_on_broken), evaluation_limit_(limit_or_none(rules.evaluations)),
      seconds_limit_(rules.seconds.value_or(0)), began_(std::chrono::steady_clock::now()), best_point_(dimension_),
      team_(std::move(team)) {
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
  } catch (const BrokenEvaluation& error) {
    return note_broken(x, error.what());
  } catch (const std::exception& error) {
    objective_threw(x, error.what());
  }
}

void Evaluator::objective_threw(const Vector& x, const char* what) const {
  throw RunEnded{Status::failed, fmt::format("the objective failed at {}: {}", point_text(x), what)};
}

double Evaluator::note_broken(const Vector& x, const char* what) {
  if (stops_on_broken_) objective_threw(x, what);
  if (events_.broken++ == 0) events_.first_broken = what;
  is_broken_ = true;
  return std::numeric_limits<double>::quiet_NaN();
}

double Evaluator::note_no_number(const Vector& x, double value) {
  if (std::exchange(is_broken_, false)) return infinity;
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
  while (milestone_counts_.size() < milestones_.size() && value <= milestones_[milestone_counts_.size()])
    milestone_counts_.push_back(counts_);
  if (value <= target_) throw RunEnded{Status::target, target_message_};
}

void Evaluator::found_minimum(const Vector& x, double value) {
  if (minima_.all().empty()) minima_ = FoundMinima(problem_.region()); // most methods never need it
  minima_.add(x, value);
}

std::optional<std::int64_t> Evaluator::evaluation_limit() const {
  if (evaluation_limit_ == std::numeric_limits<std::int64_t>::max()) return std::nullopt;
  return evaluation_limit_;
}

void Evaluator::values(const Matrix& points, Vector& values) {
  const Index count = points.cols();
  values.resize(count);
  const ScalarFunction& objective = problem_.objective();
  const bool is_shared = team_.share && team_.size > 1 && objective.is_concurrent() && !objective.depends_on_order();
  if (!is_shared && !objective.has_batch()) {
    for (Index k = 0; k < count; ++k) {
      probe_ = points.col(k);
      values[k] = (*this)(probe_);
    }
    return;
  }
  // No more is computed than the limit allows; then the count ends the run where one at a time would have.
  const Index allowed =
      std::min<std::int64_t>(count, std::max<std::int64_t>(0, evaluation_limit_ - counts_.evaluations));
  if (is_shared)
    share_out(points.leftCols(allowed));
  else if (allowed == count)
    worker_->values(points, batch_);
  else
    worker_->values(points.leftCols(allowed), batch_);
  for (Index k = 0; k < count; ++k) {
    before_evaluation();
    ++counts_.evaluations;
    probe_ = points.col(k);
    const auto place = static_cast<std::size_t>(k);
    if (is_shared && thrown_[place]) {
      try {
        std::rethrow_exception(thrown_[place]);
      } catch (const BrokenEvaluation& error) {
        batch_[k] = note_broken(probe_, error.what());
      } catch (const std::exception& error) {
        objective_threw(probe_, error.what());
      }
    }
    values[k] = noted(probe_, sign_ * batch_[k]);
  }
}

void Evaluator::share_out(const Matrix& points) {
  // Parts small enough that slow points do not keep one thread busy alone, large enough for a batch.
  const auto count = static_cast<std::size_t>(points.cols());
  const std::size_t width = std::clamp<std::size_t>(count / (4 * team_.size), 1, 64);
  const std::size_t parts = (count + width - 1) / width;
  batch_.resize(points.cols());
  thrown_.assign(count, nullptr);
  while (mates_.size() < parts) mates_.push_back({problem_.objective().worker(), {}, {}});
  const bool has_batch = problem_.objective().has_batch();
  team_.share(parts, [&](std::size_t part) {
    Mate& mate = mates_[part];
    const std::size_t first = part * width, size = std::min(width, count - first);
    const auto from = static_cast<Index>(first), many = static_cast<Index>(size);
    mate.points = points.middleCols(from, many);
    if (has_batch) {
      mate.worker->values(mate.points, mate.values);
      batch_.segment(from, many) = mate.values;
      return;
    }
    for (Index k = 0; k < many; ++k) {
      try {
        batch_[from + k] = mate.worker->value(mate.points.col(k));
      } catch (...) {
        thrown_[first + static_cast<std::size_t>(k)] = std::current_exception();
      }
    }
  });
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
