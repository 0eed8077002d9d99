#include "line_rules.hpp"
#include "tanzen/numeric/constants.hpp"

#include <cmath>

namespace tanzen::methods {
namespace {

using Trial = LineSearch::Trial;

/// Where the slope would vanish on the straight line through two.
double secant(const Trial& a, const Trial& b) {
  return (a.step * b.slope - b.step * a.slope) / (b.slope - a.slope);
}

/// The line search of Hager and Zhang (2005, section 4; 2006, section 3): brackets a zero of the slope with a slope
/// below zero at the near end, a value there of at most the start's and an allowance, and closes it by secants from
/// both sides; where they are slow, by halves. Comments name the steps of the paper.
class HagerZhangSearch : public LineSearch {
 public:
  explicit HagerZhangSearch(const LineSettings& settings) : settings_(settings) {}

 private:
  struct Bracket {
    Trial a, b;
    [[nodiscard]] double width() const { return b.step - a.step; }
  };

  /// One search: what it looked at, until a trial meets its conditions or none is left.
  class Work;

  LineStep search(const Ray& ray, double first_step) override;

  LineSettings settings_;
  double level_ = 0, weight_ = 0; ///< the averaged size of values (2006, equation 2.6)
  bool is_approximate_ = false;   ///< values hardly change any more: their slopes say more than their differences
};

class HagerZhangSearch::Work {
 public:
  Work(HagerZhangSearch& owner, const Ray& ray, double level)
      : owner_(owner), ray_(ray), highest_(ray.start.value + 1e-6 * level) {}

  [[nodiscard]] bool is_over() const { return is_met_ || trials_ >= owner_.settings_.trials; }
  [[nodiscard]] bool is_met() const { return is_met_; }
  [[nodiscard]] Index trials() const { return trials_; }
  [[nodiscard]] const Trial& last() const { return last_; }

  Trial look(double step) {
    last_ = owner_.look(ray_, step);
    if (!std::isfinite(last_.value) || std::isnan(last_.slope)) last_ = {step, infinity, -1};
    ++trials_;
    is_met_ = meets_conditions(last_);
    return last_;
  }

  /// A bracket from a first trial (steps B0 to B3).
  [[nodiscard]] Bracket bracket(double step) {
    constexpr double growth = 5;
    Trial near = ray_.start;
    for (;;) {
      const Trial now = look(step);
      if (now.slope >= 0 || is_over()) return {near, now};
      if (now.value > highest_) return closed({ray_.start, now});
      near = now;
      if (step >= ray_.longest) {
        is_met_ = true; // as far as it may go, and it falls still
        return {near, now};
      }
      step = std::min(growth * step, ray_.longest);
    }
  }

  /// By secants from both ends (S1 to S4).
  [[nodiscard]] Bracket by_secants(const Bracket& old) {
    const double c = secant(old.a, old.b);
    Bracket now = updated(old, c);
    if (is_over()) return now;
    if (c == now.b.step) return updated(now, secant(old.b, now.b));
    if (c == now.a.step) return updated(now, secant(old.a, now.a));
    return now;
  }

  /// With a trial inside (U0 to U3).
  [[nodiscard]] Bracket updated(const Bracket& old, double step) {
    if (!(step > old.a.step && step < old.b.step)) return old;
    const Trial now = look(step);
    if (now.slope >= 0) return {old.a, now};
    if (now.value <= highest_) return {now, old.b};
    return closed({old.a, now});
  }

 private:
  /// The far end has a value that is too high and a slope below zero: by halves until one is found with a slope that is
  /// not (U3).
  [[nodiscard]] Bracket closed(Bracket now) {
    while (!is_over()) {
      const Trial middle = look(0.5 * (now.a.step + now.b.step));
      if (middle.slope >= 0) return {now.a, middle};
      (middle.value <= highest_ ? now.a : now.b) = middle;
    }
    return now;
  }

  [[nodiscard]] bool meets_conditions(const Trial& now) const {
    const auto [zero, value, slope] = ray_.start;
    const double decrease = owner_.settings_.decrease;
    if (!(now.slope >= owner_.settings_.curvature * slope)) return false;
    if (now.value - value <= decrease * now.step * slope) return true;                // T1
    if (now.value > highest_ || now.slope > (2 * decrease - 1) * slope) return false; // T2
    return owner_.is_approximate_ || now.value - value <= 4 * epsilon * std::abs(value);
  }

  static constexpr double epsilon = std::numeric_limits<double>::epsilon();

  HagerZhangSearch& owner_;
  const Ray& ray_;
  double highest_;
  Trial last_;
  Index trials_ = 0;
  bool is_met_ = false;
};

LineStep HagerZhangSearch::search(const Ray& ray, double first_step) {
  constexpr double slow = 0.66;
  const double value = ray.start.value;
  weight_ = 1 + 0.7 * weight_;
  level_ += (std::abs(value) - level_) / weight_;
  Work work(*this, ray, level_);
  Bracket now = work.bracket(first_step);
  while (!work.is_over() && now.width() > 1e-14 * now.b.step) {
    const double width = now.width();
    now = work.by_secants(now);
    if (!work.is_over() && now.width() > slow * width) now = work.updated(now, 0.5 * (now.a.step + now.b.step));
  }
  Trial best = work.last();
  Index trials = work.trials();
  if (!work.is_met()) {
    if (now.a.step == 0) return {0, value, false, trials};
    best = look(ray, now.a.step); // back to it: its gradient is wanted
    ++trials;
  }
  constexpr double hardly = 1e-3;
  is_approximate_ = is_approximate_ || std::abs(best.value - value) <= hardly * level_;
  return {best.step, best.value, work.is_met(), trials};
}

} // namespace

std::unique_ptr<LineSearch> hager_zhang_search(const LineSettings& settings) {
  return std::make_unique<HagerZhangSearch>(settings);
}

} // namespace tanzen::methods
