#include "tanzen/search/fall.hpp"

#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// Values of one ray, to be minimized; what is no number, or outside the bounds, is NaN.
class Ray {
 public:
  Ray(const Problem& problem, const Vector& from, Vector direction)
      : problem_(problem.unheard().exact()), worker_(problem_.objective().worker()), from_(from),
        direction_(std::move(direction)) {}

  double operator()(double distance) {
    at_ = from_ + distance * direction_;
    if (!at_.allFinite() || problem_.bounds().violation(at_) > 0) {
      is_outside_ = true;
      return std::nan("");
    }
    ++evaluations;
    try {
      return problem_.sign() * worker_->value(at_);
    } catch (const std::exception&) { // no value: an edge like any other
      return std::nan("");
    }
  }
  [[nodiscard]] bool is_outside() const { return is_outside_; }
  [[nodiscard]] Vector point(double distance) const { return from_ + distance * direction_; }
  [[nodiscard]] const Vector& direction() const { return direction_; }

  std::int64_t evaluations = 0;

 private:
  const Problem problem_;
  std::unique_ptr<FunctionWorker> worker_;
  Vector from_, direction_, at_;
  bool is_outside_ = false;
};

/// Whether values fall, one after the other, by steps that do not shrink. A fall to minus infinity is one.
class EndlessFall {
 public:
  explicit EndlessFall(double first) : last_(first) {}

  /// False where the next value ends it.
  bool goes_on(double value) {
    constexpr double hardly_less = 0.9;
    if (!(value < last_)) return false;
    const double drop = last_ - value;
    if (!(drop >= hardly_less * drop_)) return false;
    drop_ = drop;
    last_ = value;
    ++steps_;
    return true;
  }
  [[nodiscard]] double last() const { return last_; }
  [[nodiscard]] int steps() const { return steps_; }

 private:
  double last_, drop_ = 0;
  int steps_ = 0;
};

/// Ever nearer to the edge, which lies between two distances, one with a value and one without.
std::optional<Fall> fall_at_edge(Ray& ray, double sign, double inside, double outside) {
  constexpr int halvings = 50, decades = 10;
  const double first = inside;
  for (int k = 0; k < halvings && outside - inside > 1e-15 * outside; ++k) {
    const double middle = 0.5 * (inside + outside);
    (std::isfinite(ray(middle)) ? inside : outside) = middle;
  }
  const double width = inside - first;
  if (!(width > 0)) return std::nullopt;
  EndlessFall fall(ray(first));
  double left = 1;
  for (int k = 0; k < decades; ++k) {
    left *= 0.1;
    if (!fall.goes_on(ray(inside - left * width))) return std::nullopt;
  }
  return Fall{ray.direction(), true, ray.point(outside), sign * fall.last(), ray.evaluations};
}

} // namespace

std::optional<Fall> find_fall(const Problem& problem, const Vector& from, const Vector& direction) {
  constexpr double furthest = 1e15;
  constexpr int enough = 8; // tenfold steps
  if (!problem.constraints().empty() || problem.objectives().size() > 1) return std::nullopt;
  const double length = direction.norm();
  if (!(length > 0) || !std::isfinite(length) || !from.allFinite()) return std::nullopt;
  Ray ray(problem, from, direction / length);
  const double here = ray(0);
  if (!std::isfinite(here)) return std::nullopt;
  EndlessFall fall(here);
  double before = 0;
  bool overflows = false;
  for (double distance = length; distance <= furthest * length; distance *= 10) {
    const double value = ray(distance);
    if (ray.is_outside()) break;
    // Without limit after a long fall is an overflow; otherwise it is an edge, as is a place without a value.
    overflows = std::isinf(value) && value < 0 && fall.steps() > 1;
    if (overflows) break;
    if (!std::isfinite(value) && fall.steps() < enough) return fall_at_edge(ray, problem.sign(), before, distance);
    if (!fall.goes_on(value)) return std::nullopt;
    before = distance;
  }
  if (ray.is_outside() || !(overflows || fall.steps() >= enough)) return std::nullopt;
  return Fall{ray.direction(), false, {}, problem.sign() * fall.last(), ray.evaluations};
}

std::string to_text(const Fall& fall, Sense sense) {
  const char* moves = sense == Sense::maximize ? "rises" : "falls";
  if (fall.at_edge)
    return fmt::format("the value {} without end towards the edge of the function's domain at {}", moves,
                       point_text(fall.edge, 4));
  return fmt::format("the value {} without end along {}", moves, point_text(fall.direction, 3));
}

} // namespace tanzen
