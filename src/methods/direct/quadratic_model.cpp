#include "tanzen/methods/direct/quadratic_model.hpp"

#include "tanzen/methods/direct/region_scale.hpp"

#include "box_step.hpp"
#include "interpolation_model.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

/// Of small problems a model that interpolates more values needs fewer in all; of large ones it is slow to follow.
constexpr Index most_points = 80;

/// The model, the trust region and its lower limit. All in coordinates scaled by the region.
class ModelSearch {
 public:
  ModelSearch(Evaluator& evaluate, const Start& start, double radius, Index points, double least_radius)
      : evaluate_(evaluate), n_(start.point.size()), scale_(region_scale(evaluate.problem().sampling_box())),
        model_(n_, points), box_step_(n_), radius_(radius), limit_(radius),
        least_limit_(std::min(radius, least_radius)), x_(n_), point_(n_), step_(n_), lower_(n_), upper_(n_),
        lagrange_(n_), direction_(n_) {
    bounds_.lower = evaluate.bounds().lower().cwiseQuotient(scale_);
    bounds_.upper = evaluate.bounds().upper().cwiseQuotient(scale_);
    const double room = bounds_.width().minCoeff();
    if (room > 0) radius_ = limit_ = std::min(radius, 0.5 * room);
    least_limit_ = std::min(least_limit_, limit_);
    sample(start);
  }

  /// One value, and what follows from it; false once the smallest radius has been used up.
  bool improve() {
    room_around_best();
    box_step_.find(model_, radius_, lower_, upper_, step_);
    const double length = step_.norm();
    double ratio = -1;
    const bool is_short = !(length >= 0.5 * limit_);
    if (is_short) {
      radius_ = std::max(0.1 * radius_, limit_);
      if (radius_ <= 1.5 * limit_) radius_ = limit_;
    } else {
      ratio = try_step(length);
      if (ratio >= 0.1) return true;
    }
    const double beyond = std::max(2 * radius_, 10 * limit_);
    const Index far = count_near(beyond) < 2 * n_ + 1 ? farthest(beyond) : -1;
    if (far >= 0) {
      improve_geometry(far);
      return true;
    }
    if (!is_short && (ratio > 0 || std::max(radius_, length) > limit_)) return true;
    return tighten();
  }

  [[nodiscard]] const Vector& best_point() {
    to_plain(model_.best_point());
    return x_;
  }
  [[nodiscard]] double best_value() const { return model_.best_value(); }
  [[nodiscard]] double radius() const { return radius_; }
  [[nodiscard]] double limit() const { return limit_; }

 private:
  template <class Point>
  void to_plain(const Point& scaled) {
    x_ = scaled.cwiseProduct(scale_);
    evaluate_.bounds().project(x_); // rounding alone could leave them
  }

  double value_at(const Vector& scaled) {
    to_plain(scaled);
    const double value = evaluate_(x_);
    if (std::isfinite(value)) {
      worst_ = std::isfinite(worst_) ? std::max(worst_, value) : value;
      return value;
    }
    return barrier();
  }
  /// What stands for a value that is missing: worse than all there are, but a number.
  [[nodiscard]] double barrier() const {
    if (!std::isfinite(worst_)) return 1e10;
    return worst_ + std::abs(worst_) + 1;
  }

  /// The start and two places along each variable (Powell, 2009, section 2).
  void sample(const Start& start) {
    point_ = start.point.cwiseQuotient(scale_);
    if (std::isfinite(start.value)) worst_ = start.value;
    Matrix points = point_.replicate(1, 2 * n_ + 1);
    Vector values(2 * n_ + 1);
    values[0] = std::isfinite(start.value) ? start.value : barrier();
    for (Index i = 0; i < n_; ++i) {
      const double x = points(i, 0), h = radius_;
      double first = h, second = -h;
      if (x + h > bounds_.upper[i]) first = -2 * h;
      if (x - h < bounds_.lower[i]) second = 2 * h;
      if (bounds_.upper[i] - bounds_.lower[i] <= 0) first = h, second = -h; // held fast: the values do not change
      for (const auto& [k, move] : {std::pair{1 + 2 * i, first}, std::pair{2 + 2 * i, second}}) {
        points(i, k) = x + move;
        point_ = points.col(k);
        values[k] = value_at(point_);
      }
    }
    model_.begin(points, values);
  }

  void room_around_best() {
    lower_ = (bounds_.lower - model_.best_point()).cwiseMin(0.0);
    upper_ = (bounds_.upper - model_.best_point()).cwiseMax(0.0);
  }

  /// Evaluates the best point plus `step_`, which the model then holds too where it tells enough and there is room;
  /// else it takes the place of `t`, or where that is negative of the one whose loss costs least. How much the value
  /// fell against what the model promised.
  double take_step(Index t) {
    bool is_rebuilt = model_.is_far_from_base(step_.norm());
    if (is_rebuilt) model_.rebase();
    model_.consider(step_);
    if (!model_.is_sound()) {
      model_.rebase();
      model_.consider(step_);
      is_rebuilt = true;
    }
    if (is_rebuilt) t = -1; // the points stand in another order
    const double promised = -model_.predicted_change(), before = model_.best_value();
    point_ = (model_.best_point() + step_).cwiseMax(bounds_.lower).cwiseMin(bounds_.upper);
    const double value = value_at(point_);
    if (model_.adds_enough()) {
      model_.add(point_, value);
    } else {
      if (t < 0 || model_.denominator(t) == 0) t = most_dispensable(value < before);
      if (t >= 0) model_.replace(t, point_, value);
    }
    return promised > 0 ? (before - value) / promised : -1;
  }

  double try_step(double length) {
    const double ratio = take_step(-1);
    model_.forget_if_misled();
    if (ratio <= 0.1)
      radius_ = std::min(0.5 * radius_, length);
    else
      radius_ = std::max(0.5 * radius_, (ratio > 0.7 ? 2.0 : 1.0) * length);
    if (radius_ <= 1.5 * limit_) radius_ = limit_;
    return ratio;
  }

  /// After Powell, 2006, section 7: far points go first, if the system stays well determined.
  [[nodiscard]] Index most_dispensable(bool is_better) {
    Index chosen = -1, in_need = -1;
    double most = 0, largest = 0;
    const double near = std::max(0.1 * radius_, limit_);
    if (is_better)
      direction_ = point_;
    else
      direction_ = model_.best_point();
    for (Index t = 0; t < model_.size(); ++t) {
      if (t == model_.best() && !is_better) continue;
      const double far = (model_.points().col(t) - direction_).squaredNorm();
      const double ratio = std::max(1.0, far / (near * near));
      const double poise = model_.denominator(t) * ratio * ratio;
      if (std::abs(poise) > largest) {
        largest = std::abs(poise);
        in_need = t;
      }
      if (poise < 1e-6) continue;
      const double worth = poise * ratio;
      if (worth > most) {
        most = worth;
        chosen = t;
      }
    }
    return chosen < 0 && is_better ? in_need : chosen; // the best point stays, whatever the system is worth then
  }

  [[nodiscard]] Index count_near(double distance) const {
    return ((model_.points().colwise() - model_.best_point()).colwise().squaredNorm().array() <= distance * distance)
        .count();
  }

  [[nodiscard]] Index farthest(double beyond) const {
    Index far = 0;
    const double squared = (model_.points().colwise() - model_.best_point()).colwise().squaredNorm().maxCoeff(&far);
    return squared > beyond * beyond ? far : -1;
  }

  /// Moves point t to where its Lagrange function is large, so that the others determine the model well (Powell, 2009,
  /// section 3): along the lines to the other points, or along the function's gradient.
  void improve_geometry(Index t) {
    const double away = (model_.points().col(t) - model_.best_point()).norm();
    const double length = std::max(std::min(0.1 * away, radius_), limit_);
    room_around_best();
    model_.lagrange_gradient(t, lagrange_);
    double most = 0;
    const auto look_along = [&](double slope, double curvature) { // of a direction of length 1
      double forth = length, back = -length;
      for (Index i = 0; i < n_; ++i) {
        if (direction_[i] == 0) continue;
        const double a = lower_[i] / direction_[i], b = upper_[i] / direction_[i];
        forth = std::min(forth, std::max(a, b));
        back = std::max(back, std::min(a, b));
      }
      const double flat = curvature != 0 ? std::clamp(-slope / curvature, back, forth) : forth;
      for (const double s : {forth, back, flat}) {
        const double size = std::abs(s * slope + 0.5 * s * s * curvature);
        if (!(size > most)) continue;
        most = size;
        step_ = s * direction_;
      }
    };
    step_.setZero();
    for (Index k = 0; k < model_.size(); ++k) {
      if (k == model_.best()) continue;
      // The function is 0 at the best point and 0 or 1 at the other, which tells its curvature between them.
      direction_ = model_.points().col(k) - model_.best_point();
      const double apart = direction_.norm();
      if (!(apart > 0)) continue;
      direction_ /= apart;
      const double slope = lagrange_.dot(direction_);
      look_along(slope, 2 * ((k == t ? 1 : 0) - slope * apart) / (apart * apart));
    }
    direction_ = lagrange_ / lagrange_.norm();
    look_along(lagrange_.norm(), model_.lagrange_curvature(t, direction_));
    step_ = step_.cwiseMax(lower_).cwiseMin(upper_);
    take_step(t);
  }

  /// The next smaller limit of the radius (Powell, 2006, section 7).
  bool tighten() {
    if (limit_ <= least_limit_) return false;
    const double ratio = limit_ / least_limit_, old = limit_;
    limit_ = ratio <= 16 ? least_limit_ : ratio <= 250 ? std::sqrt(limit_ * least_limit_) : 0.1 * limit_;
    radius_ = std::max(0.5 * old, limit_);
    model_.rebase();
    return true;
  }

  Evaluator& evaluate_;
  Index n_;
  Vector scale_;
  Box bounds_; ///< scaled
  InterpolationModel model_;
  BoxStep box_step_;
  double radius_; ///< Delta
  double limit_;  ///< rho
  double least_limit_;
  double worst_ = std::numeric_limits<double>::infinity(); ///< of the values there are
  Vector x_, point_, step_, lower_, upper_, lagrange_, direction_;
};

} // namespace

MethodCard QuadraticModel::card() {
  return {.title = "trust region on quadratic models that interpolate values",
          .family = "derivative-free",
          .source = "Powell, 2004, 2006 and 2009",
          .limits = "every point lies within them: the model is made small within the trust region and the bounds",
          .summary =
              "The first choice without derivatives for a smooth function of up to a hundred variables, above all "
              "where a value is expensive.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void QuadraticModel::settings(Settings& list) {
  list.add("radius", radius).positive().at_most(1).means("first trust region, as a part of the region's width");
  list.add("points", points)
      .at_least(5)
      .means("most values that a model interpolates, at least 2 n + 1")
      .unset_means("5 n, at most 80, at least 2 n + 1");
  list.add("collapse", collapse).positive().at_most(1).means("done when the radius has come down to this");
}

Search QuadraticModel::search(Evaluator& evaluate, Start start) const {
  ModelSearch models(evaluate, start, radius, points.value_or(std::min<Index>(5 * start.point.size(), most_points)),
                     collapse);
  for (;;) {
    const bool goes_on = models.improve();
    Iteration now(models.best_point(), models.best_value());
    now.column("radius", models.radius()).column("least_radius", models.limit());
    if (!goes_on) now.settled("the smallest trust region has been searched");
    co_yield now;
  }
}

} // namespace tanzen::methods
