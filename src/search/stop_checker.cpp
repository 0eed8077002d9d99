#include "tanzen/search/stop_checker.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/search/relative_gradient.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace tanzen {
namespace {

void require_positive(const char* name, const std::optional<double>& value) {
  if (value && !(*value >= 0))
    throw InputError(fmt::format("the {} must be at least 0; found {}", name, number_text(*value)));
}

void require_count(const char* name, const std::optional<std::int64_t>& value) {
  if (value && *value < 1) throw InputError(fmt::format("the limit on {} must be at least 1; found {}", name, *value));
}

} // namespace

void check_rules(const StopRules& rules) {
  require_count("iterations", rules.iterations);
  require_count("evaluations", rules.evaluations);
  require_positive("time limit", rules.seconds);
  require_positive("gradient tolerance", rules.gradient_tolerance);
  require_positive("limit on the gradient norm", rules.gradient_norm);
  require_positive("step tolerance", rules.step_tolerance);
  require_positive("value tolerance", rules.value_tolerance);
  require_positive("feasibility tolerance", rules.feasibility);
  if (rules.window < 1) throw InputError(fmt::format("the window must be at least 1; found {}", rules.window));
  if (rules.target && std::isnan(*rules.target)) throw InputError("the target must be a number");
}

StopChecker::StopChecker(const StopRules& rules, const Problem& problem)
    : rules_(rules), problem_(&problem),
      iterations_(rules.iterations.value_or(std::numeric_limits<std::int64_t>::max())),
      gradient_tolerance_(rules.gradient_tolerance.value_or(-1)), feasibility_(rules.feasibility),
      has_window_(rules.step_tolerance.has_value() || rules.value_tolerance.has_value()) {
  check_rules(rules);
  if (rules.gradient_norm) {
    most_norm_ = std::numeric_limits<double>::infinity(); // looked at each time
  } else if (rules.gradient_tolerance) {
    most_norm_ = gradient_tolerance_ * std::sqrt(static_cast<double>(problem.dimension()));
  }
  if (problem.bounds().any()) return;
  least_size_ = std::numeric_limits<double>::infinity();
  for (Index i = 0; i < problem.dimension(); ++i) least_size_ = std::min(least_size_, problem.typical_size(i));
}

void StopChecker::begin(double start_value) {
  start_value_ = start_value;
  last_value_ = start_value;
}

void StopChecker::measure_depth(double value) {
  constexpr double depth = 1e20; // that no function has, in sizes of its values
  const double size = std::abs(start_value_) + std::abs(value - start_value_);
  if (std::isfinite(size) && size > 0) deepest_ = start_value_ - depth * size;
}

bool StopChecker::is_far(const Vector& point) const {
  constexpr double far = 1e15;
  for (Index i = 0; i < point.size(); ++i) {
    if (std::abs(point[i]) > far * problem_->typical_size(i)) return true;
  }
  return false;
}

RunEnded StopChecker::too_deep(double value) const {
  return {Status::diverged,
          fmt::format("the value fell from {} to {} (as minimized)", short_number(start_value_), short_number(value))};
}

std::optional<RunEnded> StopChecker::divergence(const Vector& point, double value) {
  if (!point.allFinite()) {
    return RunEnded{Status::diverged, fmt::format("the point left the numbers: {}", point_text(point))};
  }
  if (!std::isfinite(value)) {
    if (++without_value_ < patience_without_value_) return std::nullopt;
    return RunEnded{Status::diverged,
                    fmt::format("the objective has no value along the last {} iterations", without_value_)};
  }
  without_value_ = 0;
  const double scale = std::isfinite(start_value_) ? 1 + std::abs(start_value_) : 1;
  const double reference = std::isfinite(start_value_) ? start_value_ : 0;
  if (rises_ < rises_to_diverge_ || !(value - reference > rules_.divergence * scale)) return std::nullopt;
  return RunEnded{
      Status::diverged,
      fmt::format("the value blew up, from {} to {} (as minimized), rising in each of the last {} iterations",
                  short_number(start_value_), short_number(value), rises_)};
}

double StopChecker::relative_gradient_at(const Iteration& now) const {
  if (!std::isnan(now.relative_gradient())) return now.relative_gradient();
  const double size = value_size(now.value(), start_value_);
  if (now.gradient() != nullptr) return relative_gradient(*problem_, now.point(), *now.gradient(), size);
  if (now.gradient_norm() == 0) return 0;
  double largest = 0;
  for (Index i = 0; i < now.point().size(); ++i)
    largest = std::max({largest, std::abs(now.point()[i]), problem_->typical_size(i)});
  return now.gradient_norm() * largest / size;
}

std::optional<RunEnded> StopChecker::small_gradient(const Iteration& now) const {
  if (now.violation() > feasibility_) return std::nullopt;
  if (rules_.gradient_norm && now.gradient_norm() <= *rules_.gradient_norm) {
    return RunEnded{Status::gradient, fmt::format("gradient norm {} is below {}", short_number(now.gradient_norm(), 2),
                                                  short_number(*rules_.gradient_norm))};
  }
  const double relative = relative_gradient_at(now);
  if (!(relative <= gradient_tolerance_)) return std::nullopt;
  return RunEnded{Status::gradient, fmt::format("relative gradient {} is below {}", short_number(relative, 2),
                                                short_number(gradient_tolerance_))};
}

RunEnded StopChecker::small_residual(double residual) const {
  return {Status::gradient,
          fmt::format("KKT residual {} is below {}", short_number(residual, 2), short_number(gradient_tolerance_))};
}

std::optional<RunEnded> StopChecker::settled(const Iteration& now, const Vector& from) {
  const auto window = static_cast<std::size_t>(rules_.window);
  const double step = relative_step(*problem_, from, now.point()), value = now.value();
  if (rules_.step_tolerance) {
    short_steps_ = step <= *rules_.step_tolerance ? short_steps_ + 1 : 0;
    if (short_steps_ >= rules_.window) {
      return RunEnded{Status::step, fmt::format("the last {} steps are below {} relative to the variables", window,
                                                short_number(*rules_.step_tolerance))};
    }
  }
  if (!rules_.value_tolerance) return std::nullopt;
  if (values_.size() < window)
    values_.push_back(value);
  else
    values_[next_] = value;
  next_ = (next_ + 1) % window;
  if (values_.size() < window || step > std::sqrt(*rules_.value_tolerance)) return std::nullopt;
  const auto [least, most] = std::ranges::minmax_element(values_);
  if (*most - *least > *rules_.value_tolerance * value_size(value, start_value_)) return std::nullopt;
  return RunEnded{Status::value,
                  fmt::format("the last {} values agree to {}", window, short_number(*rules_.value_tolerance))};
}

RunEnded StopChecker::limit() const {
  return {Status::iterations, fmt::format("the limit of {} is reached", counted(iterations_, "iteration"))};
}

} // namespace tanzen
