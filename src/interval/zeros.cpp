#include "tanzen/interval/zeros.hpp"

#include "tanzen/numeric/factors.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen {
namespace {

using Box = std::vector<Enclosure>;

double relative_width(const Enclosure& side) {
  return side.width() / (1 + std::abs(side.middle()));
}

bool lies_within(const Box& inner, const Box& outer) {
  for (std::size_t i = 0; i < inner.size(); ++i) {
    if (!(outer[i].lower <= inner[i].lower && inner[i].upper <= outer[i].upper)) return false;
  }
  return true;
}

bool overlap(const Box& one, const Box& other) {
  for (std::size_t i = 0; i < one.size(); ++i) {
    if (common(one[i], other[i]).is_empty()) return false;
  }
  return true;
}

/// The most that a side has lost, as a part of it.
double gain(const Box& before, const Box& after) {
  double most = 0;
  for (std::size_t i = 0; i < before.size(); ++i) {
    const double width = before[i].width();
    if (width > 0) most = std::max(most, 1 - after[i].width() / width);
  }
  return most;
}

/// A depth-first search over boxes.
class Search {
 public:
  Search(IntervalSystem& system, const ZerosOptions& options)
      : system_(system), options_(options), m_(system.size()), values_(m_), jacobian_(m_ * m_), centre_(m_), point_(m_),
        at_centre_(m_), slopes_at_centre_(m_ * m_) {}

  Zeros find(const Box& whole) {
    waiting_.push_back(whole);
    while (!waiting_.empty()) {
      if (is_over()) {
        found_.is_finished = false;
        std::ranges::move(waiting_, std::back_inserter(found_.undecided));
        break;
      }
      Box box = std::move(waiting_.back());
      waiting_.pop_back();
      ++found_.looked_at;
      if (is_settled(box)) continue;
      if (width_of(box) < options_.narrowest || !cut(box)) found_.undecided.push_back(std::move(box));
    }
    return std::move(found_);
  }

 private:
  [[nodiscard]] bool is_over() const {
    constexpr std::int64_t now_and_then = 64;
    if (found_.undecided.size() > options_.most_boxes) return true;
    return options_.should_stop && found_.looked_at % now_and_then == 0 && options_.should_stop();
  }
  [[nodiscard]] double width_of(const Box& box) const {
    double widest = 0;
    for (const Enclosure& side : box) widest = std::max(widest, relative_width(side));
    return widest;
  }
  [[nodiscard]] bool is_known(const Box& box) const {
    return std::ranges::any_of(found_.zeros, [&](const Zero& zero) { return lies_within(box, zero.alone); });
  }

  /// Whether all is known of the box; it is narrowed otherwise.
  bool is_settled(Box& box) {
    constexpr int most_rounds = 30;
    constexpr double worth_it = 0.15, near_a_zero = 1e-3;
    gap_.reset();
    for (int round = 0; round < most_rounds; ++round) {
      if (is_known(box)) return true;
      const Box before = box;
      sight_ = system_.evaluate(box, values_, jacobian_);
      if (sight_ == IntervalSystem::Sight::nowhere) return true;
      if (std::ranges::any_of(values_, [](const Enclosure& v) { return !v.contains(0); })) return true;
      if (sight_ == IntervalSystem::Sight::values) return false;
      Box narrower = box;
      if (!system_.contract(narrower)) return true;
      const Box start = box;
      const IntervalNewton::Result result = newton(box);
      gap_ = step_.gap();
      if (result == IntervalNewton::Result::no_zero) return true;
      if (result == IntervalNewton::Result::one_zero) {
        note({.box = box, .alone = start});
        return true;
      }
      for (std::size_t i = 0; i < m_; ++i) {
        box[i] = common(box[i], narrower[i]);
        if (box[i].is_empty()) return true;
      }
      if (width_of(box) < options_.narrowest || gain(before, box) < worth_it) break;
    }
    return width_of(box) < near_a_zero && prove_near(box) && is_known(box);
  }

  IntervalNewton::Result newton(Box& box) {
    for (std::size_t i = 0; i < m_; ++i) {
      centre_[i] = box[i].middle();
      point_[i] = centre_[i];
    }
    if (system_.evaluate(point_, at_centre_, slopes_at_centre_) != IntervalSystem::Sight::slopes)
      return IntervalNewton::Result::nothing;
    return step_.take(jacobian_, at_centre_, centre_, box);
  }

  /// Newton's method on numbers from the middle, and a proof around where it ends.
  bool prove_near(const Box& box) {
    const auto m = static_cast<Index>(m_);
    Vector x(m), f(m);
    Matrix slopes(m, m);
    for (Index i = 0; i < m; ++i) x[i] = box[static_cast<std::size_t>(i)].middle();
    const Vector from = x;
    const double reach = 20 * (1 + from.cwiseAbs().maxCoeff()) * width_of(box);
    for (int k = 0; k < 20; ++k) {
      for (std::size_t i = 0; i < m_; ++i) point_[i] = x[static_cast<Index>(i)];
      if (system_.evaluate(point_, at_centre_, slopes_at_centre_) != IntervalSystem::Sight::slopes) return false;
      for (Index i = 0; i < m; ++i) {
        f[i] = at_centre_[static_cast<std::size_t>(i)].middle();
        for (Index j = 0; j < m; ++j) slopes(i, j) = slopes_at_centre_[static_cast<std::size_t>(i * m + j)].middle();
      }
      if (!f.allFinite() || !slopes.allFinite()) return false;
      const Vector step = least_squares(slopes, f);
      if (!step.allFinite()) return false;
      x -= step;
      if ((x - from).lpNorm<Eigen::Infinity>() > reach) return false;
      if (step.norm() <= 1e-15 * (1 + x.norm())) break;
    }
    for (const double radius : {1e-12, 1e-10, 1e-8}) {
      Zero zero;
      for (Index i = 0; i < m; ++i) {
        const double half = radius * (1 + std::abs(x[i]));
        zero.alone.push_back({x[i] - half, x[i] + half});
      }
      if (!holds_one(zero)) continue;
      note(std::move(zero));
      return true;
    }
    return false;
  }

  /// Whether `alone` holds exactly one zero; `box` is then where.
  bool holds_one(Zero& zero) {
    if (system_.evaluate(zero.alone, values_, jacobian_) != IntervalSystem::Sight::slopes) return false;
    zero.box = zero.alone;
    return newton(zero.box) == IntervalNewton::Result::one_zero;
  }

  /// Narrows the box of a zero, and widens that in which it is alone, which spares boxes around it.
  void note(Zero zero) {
    for (int k = 0; k < 20; ++k) {
      Box narrower = zero.box;
      if (system_.evaluate(narrower, values_, jacobian_) != IntervalSystem::Sight::slopes) break;
      const IntervalNewton::Result result = newton(narrower);
      if (result == IntervalNewton::Result::no_zero || gain(zero.box, narrower) < 0.1) break;
      zero.box = narrower;
    }
    const auto is_same = [&](const Zero& known) {
      return lies_within(zero.box, known.alone) || lies_within(known.box, zero.alone);
    };
    if (std::ranges::any_of(found_.zeros, is_same)) return;
    // Two boxes that overlap may hold one and the same zero, or two.
    for (const Zero& known : found_.zeros) {
      if (!overlap(zero.box, known.box)) continue;
      found_.undecided.push_back(std::move(zero.box));
      return;
    }
    for (double factor = 4; factor < 1e14; factor *= 4) {
      Zero wider{.box = {}, .alone = zero.box};
      for (Enclosure& side : wider.alone) {
        const double more = factor * std::max(1e-13 * (1 + std::abs(side.middle())), side.width());
        side = {side.lower - more, side.upper + more};
      }
      if (!lies_within(zero.alone, wider.alone)) continue;
      if (!holds_one(wider)) break;
      zero.alone = wider.alone;
    }
    found_.zeros.push_back(std::move(zero));
  }

  /// Where the last step found a gap, else at the unknown along which the equations change most, relative to how much
  /// each of them changes. False where no double lies between the ends.
  bool cut(const Box& box) {
    constexpr double place = 0.47; // zeros at round numbers are then seldom on a cut
    if (gap_ && gap_->without.lower > box[gap_->unknown].lower && gap_->without.upper < box[gap_->unknown].upper) {
      push_parts(box, gap_->unknown, gap_->without);
      return true;
    }
    const std::size_t chosen = most_changing(box);
    const double at = box[chosen].lower + place * (box[chosen].upper - box[chosen].lower);
    if (!(at > box[chosen].lower && at < box[chosen].upper)) return false;
    push_parts(box, chosen, at);
    return true;
  }
  void push_parts(const Box& box, std::size_t i, const Enclosure& between) {
    waiting_.push_back(box);
    waiting_.back()[i].upper = between.lower;
    waiting_.push_back(box);
    waiting_.back()[i].lower = between.upper;
  }
  [[nodiscard]] std::size_t most_changing(const Box& box) const {
    const double widest = width_of(box);
    std::vector<double> weight(m_, 0);
    for (std::size_t k = 0; k < m_ && sight_ == IntervalSystem::Sight::slopes; ++k) {
      double change = 0;
      for (std::size_t j = 0; j < m_; ++j)
        change = std::max(change, jacobian_[k * m_ + j].magnitude() * box[j].width());
      if (!(change > 0) || !std::isfinite(change)) continue;
      for (std::size_t j = 0; j < m_; ++j)
        weight[j] = std::max(weight[j], jacobian_[k * m_ + j].magnitude() * box[j].width() / change);
    }
    std::size_t chosen = 0;
    double most = -1;
    for (std::size_t i = 0; i < m_; ++i) {
      const double width = relative_width(box[i]);
      if (width < 0.05 * widest) continue;
      const double worth = sight_ == IntervalSystem::Sight::slopes ? weight[i] : width;
      if (worth <= most) continue;
      most = worth;
      chosen = i;
    }
    return chosen;
  }

  IntervalSystem& system_;
  const ZerosOptions& options_;
  std::size_t m_;
  std::vector<Enclosure> values_, jacobian_; ///< over the box
  std::vector<double> centre_;
  Box point_;
  std::vector<Enclosure> at_centre_, slopes_at_centre_; ///< at a point of it
  IntervalNewton step_;
  std::optional<IntervalNewton::Gap> gap_; ///< in the box that is looked at
  IntervalSystem::Sight sight_ = IntervalSystem::Sight::values;
  std::vector<Box> waiting_;
  Zeros found_;
};

} // namespace

Zeros find_zeros(IntervalSystem& system, const std::vector<Enclosure>& box, const ZerosOptions& options) {
  return Search(system, options).find(box);
}

} // namespace tanzen
