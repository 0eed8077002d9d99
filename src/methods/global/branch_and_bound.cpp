#include "tanzen/methods/global/branch_and_bound.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/interval/interval_tape.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/search/proof.hpp"

#include <Eigen/Cholesky>
#include <Eigen/LU>

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <optional>
#include <queue>
#include <stdexcept>
#include <vector>

namespace tanzen::methods {
namespace {

using intervals::infinity;

/// A part of the region that waits.
struct Box {
  std::vector<Enclosure> sides;
  double lower = -infinity; ///< no value in it is below
  /// By variable: whether the region's lower or upper face is no part of it any more, where it touches that face.
  std::vector<char> without_lower, without_upper;
};

struct LaterFirst {
  bool operator()(const Box& a, const Box& b) const { return a.lower > b.lower; }
};

/// What a Newton step over a box came to.
enum class NewtonStep { nothing_left, nothing_gained, narrower, one_point };

/// One search for all global minimizers of an expression in a region. Values are those to minimize.
class Partition {
 public:
  Partition(const Problem& problem, const Box& region, double width)
      : problem_(problem), tape_(*problem.expression()), work_(tape_.workspace()), point_work_(tape_.workspace()),
        sign_(problem.sign()), n_(static_cast<std::size_t>(problem.dimension())), region_(region.sides), width_(width),
        middle_(n_), point_(n_) {
    queue_.push(region);
    const BoxTraits traits = tape_.evaluate(region_, IntervalTape::Order::value, work_);
    const double range = traits.nowhere ? 0 : tape_.value(work_).width();
    scale_ = range > 0 && range < 1 ? range : 1;
  }

  /// What the width of an enclosure of a value is measured by: the value's size, or what the function's range in the
  /// region is, as far as that is below 1.
  [[nodiscard]] double size_of_value(double value) const { return std::max(std::abs(value), scale_); }

  /// The best value seen is no higher; what is above goes.
  void lower_best(double best) { best_ = std::min(best_, best); }
  [[nodiscard]] double best() const { return best_; }
  /// No value of the region is below.
  [[nodiscard]] double bound() const {
    double least = best_;
    if (!queue_.empty()) least = std::min(least, queue_.top().lower);
    for (const Box& box : final_) least = std::min(least, box.lower);
    return least;
  }
  [[nodiscard]] bool is_empty() const { return queue_.empty(); }
  [[nodiscard]] std::size_t waiting() const { return queue_.size() + final_.size(); }
  [[nodiscard]] std::int64_t looked_at() const { return looked_at_; }
  /// How wide the last box was, relative to the variables.
  [[nodiscard]] double last_width() const { return last_width_; }

  /// Looks at the most promising box: throws it away, narrows it, or cuts it. Its middle is left in `middle` where that
  /// is worth a value: the value there, rounded upwards, may be below the best.
  bool step(Vector& middle, double tolerance) {
    Box box = queue_.top();
    queue_.pop();
    if (box.lower > best_) return false;
    ++looked_at_;
    if (!reduce(box)) return false;
    last_width_ = size_of(box);
    const bool is_promising = value_at_middle(box) < best_;
    if (is_promising) middle = Eigen::Map<const Vector>(middle_.data(), static_cast<Index>(n_));
    constexpr double narrowest = 1e-13;
    const bool is_done = last_width_ <= width_ && (best_ - box.lower <= tolerance || last_width_ <= narrowest);
    if (is_done || !cut(std::move(box))) final_.push_back(std::move(box));
    return is_promising;
  }
  /// The value at a point, rounded upwards; infinite where there is none.
  double highest_at(const Vector& x) {
    for (std::size_t i = 0; i < n_; ++i) point_[i] = Enclosure(x[static_cast<Index>(i)]);
    const BoxTraits traits = tape_.evaluate(point_, IntervalTape::Order::value, point_work_);
    return traits.nowhere || traits.partly ? infinity : told(tape_.value(point_work_)).upper;
  }

  /// Newton steps within the region, damped until they lower the value, from a point to where they no longer do; no
  /// values of the run. For upper bounds: what they are worth is told by the value of where they end.
  void descend(Vector& x) {
    constexpr int most_steps = 60, most_halvings = 40;
    const auto n = static_cast<Index>(n_);
    double value = highest_at(x);
    Matrix hessian(n, n);
    Vector gradient(n), step(n), next(n);
    for (int k = 0; k < most_steps && std::isfinite(value); ++k) {
      for (std::size_t i = 0; i < n_; ++i) point_[i] = Enclosure(x[static_cast<Index>(i)]);
      (void)tape_.evaluate(point_, IntervalTape::Order::hessian, point_work_);
      for (Index i = 0; i < n; ++i) {
        const auto at = static_cast<std::size_t>(i);
        gradient[i] = slope(at, point_work_).middle();
        for (Index j = 0; j < n; ++j) hessian(i, j) = sign_ * tape_.bend(i, j, point_work_).middle();
      }
      if (!gradient.allFinite() || !hessian.allFinite()) return;
      // What a face holds stays.
      for (Index i = 0; i < n; ++i) {
        const Enclosure& side = region_[static_cast<std::size_t>(i)];
        const bool is_held = (x[i] <= side.lower && gradient[i] > 0) || (x[i] >= side.upper && gradient[i] < 0);
        if (!is_held) continue;
        hessian.row(i).setZero();
        hessian.col(i).setZero();
        hessian(i, i) = 1;
        gradient[i] = 0;
      }
      const double size = std::max(hessian.cwiseAbs().maxCoeff(), std::numeric_limits<double>::min());
      Eigen::LLT<Matrix> factors(hessian);
      for (double more = 1e-6; factors.info() != Eigen::Success && more < 1e3; more *= 10)
        factors.compute(hessian + Matrix((more * size * Vector::Ones(n)).asDiagonal()));
      step = factors.info() == Eigen::Success ? Vector(-factors.solve(gradient)) : Vector(-gradient / size);
      bool is_lower = false;
      for (int halving = 0; halving < most_halvings && !is_lower; ++halving, step *= 0.5) {
        next = x + step;
        for (Index i = 0; i < n; ++i)
          next[i] = std::clamp(next[i], region_[static_cast<std::size_t>(i)].lower,
                               region_[static_cast<std::size_t>(i)].upper);
        const double found = highest_at(next);
        is_lower = found < value;
        if (is_lower) value = found;
      }
      if (!is_lower) return;
      x = next;
    }
  }

  /// The boxes that are left, those that touch joined, each told by a Newton step on it as a whole.
  std::vector<Proof::MinimizerBox> minimizers() {
    std::vector<Box> joined;
    for (Box& box : final_) {
      if (box.lower > best_) continue;
      join(std::move(box), joined);
    }
    std::vector<Proof::MinimizerBox> told;
    for (Box& box : joined) {
      const bool is_one = holds_one_minimum(box);
      Proof::MinimizerBox one{Vector(static_cast<Index>(n_)), Vector(static_cast<Index>(n_)),
                              is_one ? Proof::Holds::one : Proof::Holds::unknown};
      for (std::size_t i = 0; i < n_; ++i) {
        one.lower[static_cast<Index>(i)] = box.sides[i].lower;
        one.upper[static_cast<Index>(i)] = box.sides[i].upper;
      }
      told.push_back(std::move(one));
    }
    return told;
  }

 private:
  [[nodiscard]] Enclosure told(const Enclosure& value) const { return sign_ < 0 ? -value : value; }
  [[nodiscard]] Enclosure slope(std::size_t i, const IntervalTape::Workspace& work) const {
    return told(tape_.slope(static_cast<Index>(i), work));
  }
  [[nodiscard]] Enclosure bend(std::size_t i, std::size_t j) const {
    return told(tape_.bend(static_cast<Index>(i), static_cast<Index>(j), work_));
  }

  /// Whether a minimizer in the box may move along a variable both ways without leaving the region.
  [[nodiscard]] bool is_free(const Box& box, std::size_t i) const {
    return !touches_lower(box, i) && !touches_upper(box, i);
  }
  [[nodiscard]] bool touches_lower(const Box& box, std::size_t i) const {
    return box.sides[i].lower <= region_[i].lower && box.without_lower[i] == 0;
  }
  [[nodiscard]] bool touches_upper(const Box& box, std::size_t i) const {
    return box.sides[i].upper >= region_[i].upper && box.without_upper[i] == 0;
  }
  [[nodiscard]] double relative_width(const Box& box, std::size_t i) const {
    const Enclosure& side = box.sides[i];
    return side.is_point() ? 0
                           : side.width() / std::max(side.magnitude(), problem_.typical_size(static_cast<Index>(i)));
  }
  [[nodiscard]] double size_of(const Box& box) const {
    double widest = 0;
    for (std::size_t i = 0; i < n_; ++i) widest = std::max(widest, relative_width(box, i));
    return widest;
  }

  /// Throws the box away (false), or narrows it.
  bool reduce(Box& box) {
    constexpr int most_rounds = 10;
    constexpr double worth_it = 0.1;
    for (int round = 0; round < most_rounds; ++round) {
      const BoxTraits traits = tape_.evaluate(box.sides, IntervalTape::Order::hessian, work_);
      if (traits.nowhere) return false;
      box.lower = std::max(box.lower, told(tape_.value(work_)).lower);
      if (box.lower > best_) return false;
      if (!traits.is_continuous()) return true;
      bool has_moved = false;
      for (std::size_t i = 0; i < n_; ++i) {
        const Enclosure g = slope(i, work_);
        if (!(g.lower > 0) && !(g.upper < 0)) continue;
        // It rises, or falls: only the face on that side can have a minimizer.
        const bool rises = g.lower > 0;
        if (box.sides[i].is_point() && !is_free(box, i)) {
          const bool at_lower = touches_lower(box, i), at_upper = touches_upper(box, i);
          if (at_lower && at_upper) continue; // the region has no width here
          if ((at_lower && !rises) || (at_upper && rises)) return false;
          continue;
        }
        if (!(rises ? touches_lower(box, i) : touches_upper(box, i))) return false;
        box.sides[i] = rises ? Enclosure(region_[i].lower) : Enclosure(region_[i].upper);
        has_moved = true;
      }
      if (has_moved) continue;
      if (!improve_bound(box, traits)) return false;
      if (!traits.is_smooth()) return true;
      bool all_free = true;
      for (std::size_t i = 0; i < n_; ++i) {
        if (box.sides[i].is_point()) continue;
        if (!is_free(box, i))
          all_free = false;
        else if (bend(i, i).upper < 0)
          return false; // no minimum where it is concave
      }
      if (!all_free) return true;
      const double before = size_of(box);
      const NewtonStep step = newton(box.sides);
      if (step == NewtonStep::nothing_left) return false;
      if (step == NewtonStep::nothing_gained || size_of(box) > (1 - worth_it) * before) return true;
    }
    return true;
  }

  /// By the mean-value form and the Taylor form of second order about the middle. False where all values are too high.
  bool improve_bound(Box& box, const BoxTraits& traits) {
    for (std::size_t i = 0; i < n_; ++i) point_[i] = Enclosure(box.sides[i].middle());
    const BoxTraits at = tape_.evaluate(point_, IntervalTape::Order::gradient, point_work_);
    if (at.nowhere || at.partly) return true;
    Enclosure mean = told(tape_.value(point_work_)), taylor = mean;
    for (std::size_t i = 0; i < n_; ++i) {
      const Enclosure away = box.sides[i] - point_[i];
      if (away == Enclosure(0)) continue;
      mean = mean + slope(i, work_) * away;
      if (!traits.is_smooth()) continue;
      taylor = taylor + slope(i, point_work_) * away + Enclosure(0.5) * (bend(i, i) * square(away));
      for (std::size_t j = 0; j < i; ++j) taylor = taylor + bend(i, j) * (away * (box.sides[j] - point_[j]));
    }
    if (mean.lower > box.lower) box.lower = mean.lower;
    if (traits.is_smooth() && taylor.lower > box.lower) box.lower = taylor.lower;
    return !(box.lower > best_);
  }

  /// One step of Hansen and Sengupta on the slopes of the sides that are no points; the last evaluation was of the box.
  NewtonStep newton(std::vector<Enclosure>& sides) {
    free_.clear();
    for (std::size_t i = 0; i < n_; ++i) {
      if (!sides[i].is_point()) free_.push_back(i);
    }
    const auto m = static_cast<Index>(free_.size());
    if (m == 0) return NewtonStep::nothing_gained;
    Matrix centre(m, m);
    for (Index a = 0; a < m; ++a) {
      for (Index b = 0; b < m; ++b) {
        const Enclosure h = bend(free_[static_cast<std::size_t>(a)], free_[static_cast<std::size_t>(b)]);
        if (!h.is_finite()) return NewtonStep::nothing_gained;
        centre(a, b) = h.middle();
      }
    }
    for (std::size_t i = 0; i < n_; ++i) point_[i] = Enclosure(sides[i].middle());
    const BoxTraits at = tape_.evaluate(point_, IntervalTape::Order::gradient, point_work_);
    if (!at.is_continuous()) return NewtonStep::nothing_gained;
    const Eigen::FullPivLU<Matrix> factors(centre);
    if (!factors.isInvertible()) return NewtonStep::nothing_gained;
    const Matrix inverse = factors.inverse();
    if (!inverse.allFinite()) return NewtonStep::nothing_gained;
    bool is_inside = true, is_narrower = false;
    std::vector<Enclosure> row(free_.size());
    for (Index a = 0; a < m; ++a) {
      const std::size_t i = free_[static_cast<std::size_t>(a)];
      Enclosure right = 0;
      std::fill(row.begin(), row.end(), Enclosure(0));
      for (Index k = 0; k < m; ++k) {
        const Enclosure y(inverse(a, k));
        const std::size_t from = free_[static_cast<std::size_t>(k)];
        right = right - y * slope(from, point_work_);
        for (std::size_t b = 0; b < free_.size(); ++b) row[b] = row[b] + y * bend(from, free_[b]);
      }
      for (std::size_t b = 0; b < free_.size(); ++b) {
        if (free_[b] != i) right = right - row[b] * (sides[free_[b]] - point_[free_[b]]);
      }
      const Enclosure& pivot = row[static_cast<std::size_t>(a)];
      if (pivot.contains(0)) {
        is_inside = false;
        continue;
      }
      const Enclosure found = point_[i] + right / pivot, left = common(sides[i], found);
      if (left.is_empty()) return NewtonStep::nothing_left;
      if (!(found.lower > sides[i].lower && found.upper < sides[i].upper)) is_inside = false;
      if (left.width() < sides[i].width()) is_narrower = true;
      sides[i] = left;
    }
    if (is_inside) return NewtonStep::one_point;
    return is_narrower ? NewtonStep::narrower : NewtonStep::nothing_gained;
  }

  /// Exactly one stationary point, and it is a minimum: a Newton step leads into the box's own inside, made a little
  /// larger, and the Hessian is positive definite all over it.
  bool holds_one_minimum(Box& box) {
    for (std::size_t i = 0; i < n_; ++i) {
      if (box.sides[i].is_point() || !is_free(box, i)) return false;
    }
    std::vector<Enclosure> larger = box.sides;
    for (std::size_t i = 0; i < n_; ++i) {
      const double more = std::max(2 * larger[i].width(), 1e-10 * problem_.typical_size(static_cast<Index>(i)));
      larger[i] = {larger[i].lower - more, larger[i].upper + more};
      if (!(larger[i].lower > region_[i].lower && larger[i].upper < region_[i].upper)) return false;
    }
    const BoxTraits traits = tape_.evaluate(larger, IntervalTape::Order::hessian, work_);
    if (!traits.is_smooth() || !is_positive_definite()) return false;
    std::vector<Enclosure> within = larger;
    if (newton(within) != NewtonStep::one_point) return false;
    for (int k = 0; k < 3; ++k) { // what the step leaves holds it
      (void)tape_.evaluate(within, IntervalTape::Order::hessian, work_);
      if (newton(within) == NewtonStep::nothing_left) break;
    }
    box.sides = within;
    return true;
  }

  /// All symmetric matrices within the Hessian's enclosure, by their diagonals beside the rest of each row, with the
  /// variables in their sizes.
  [[nodiscard]] bool is_positive_definite() const {
    for (std::size_t i = 0; i < n_; ++i) {
      double rest = 0;
      for (std::size_t j = 0; j < n_; ++j) {
        if (j != i) rest = intervals::above(rest + bend(i, j).magnitude(), 2);
      }
      if (!(bend(i, i).lower > rest)) return has_positive_pivots();
    }
    return true;
  }
  /// By elimination in intervals.
  [[nodiscard]] bool has_positive_pivots() const {
    std::vector<Enclosure> rows(n_ * n_);
    for (std::size_t i = 0; i < n_; ++i) {
      for (std::size_t j = 0; j < n_; ++j) rows[i * n_ + j] = bend(i, j);
    }
    for (std::size_t k = 0; k < n_; ++k) {
      if (!(rows[k * n_ + k].lower > 0)) return false;
      for (std::size_t i = k + 1; i < n_; ++i) {
        const Enclosure factor = rows[i * n_ + k] / rows[k * n_ + k];
        for (std::size_t j = k; j < n_; ++j) rows[i * n_ + j] = rows[i * n_ + j] - factor * rows[k * n_ + j];
      }
    }
    return true;
  }

  double value_at_middle(const Box& box) {
    for (std::size_t i = 0; i < n_; ++i) {
      middle_[i] = box.sides[i].middle();
      point_[i] = Enclosure(middle_[i]);
    }
    const BoxTraits traits = tape_.evaluate(point_, IntervalTape::Order::value, point_work_);
    return traits.nowhere || traits.partly ? infinity : told(tape_.value(point_work_)).upper;
  }

  /// Into two at the middle of a side: the one along which values change most, of those that are not much narrower than
  /// the widest. Where the box touches faces of the region and is no longer wide, a face is split off first. False
  /// where no double lies between the ends.
  bool cut(Box&& box) {
    constexpr double part_of_region = 0.3;
    for (std::size_t i = 0; i < n_; ++i) {
      if (box.sides[i].is_point() || is_free(box, i)) continue;
      if (box.sides[i].width() > part_of_region * region_[i].width()) continue;
      split_faces(std::move(box), i);
      return true;
    }
    const double widest = size_of(box);
    std::size_t chosen = n_;
    double most = -1;
    for (std::size_t i = 0; i < n_; ++i) {
      if (box.sides[i].is_point() || relative_width(box, i) < 0.1 * widest) continue;
      const double change = slope_magnitude(i) * box.sides[i].width();
      const double weight = std::isfinite(change) ? change : relative_width(box, i);
      if (weight <= most) continue;
      most = weight;
      chosen = i;
    }
    if (chosen == n_) return false;
    const double at = box.sides[chosen].middle();
    if (!(at > box.sides[chosen].lower && at < box.sides[chosen].upper)) return false;
    Box upper = box;
    upper.sides[chosen].lower = at;
    box.sides[chosen].upper = at;
    queue_.push(std::move(box));
    queue_.push(std::move(upper));
    return true;
  }
  [[nodiscard]] double slope_magnitude(std::size_t i) const {
    return work_.gradients.empty() ? 1 : slope(i, work_).magnitude();
  }

  void split_faces(Box&& box, std::size_t i) {
    for (const bool is_lower : {true, false}) {
      if (!(is_lower ? touches_lower(box, i) : touches_upper(box, i))) continue;
      Box face = box;
      face.sides[i] = is_lower ? Enclosure(region_[i].lower) : Enclosure(region_[i].upper);
      (is_lower ? box.without_lower : box.without_upper)[i] = 1;
      queue_.push(std::move(face));
    }
    queue_.push(std::move(box));
  }

  /// Into one of those that it touches, which then may touch others.
  void join(Box&& box, std::vector<Box>& joined) {
    constexpr double near = 2;
    for (bool again = true; again;) {
      again = false;
      for (std::size_t k = 0; k < joined.size(); ++k) {
        bool touches = true;
        for (std::size_t i = 0; i < n_ && touches; ++i) {
          const double room = near * width_ * problem_.typical_size(static_cast<Index>(i));
          const Enclosure &a = joined[k].sides[i], &b = box.sides[i];
          touches = a.lower <= b.upper + room && b.lower <= a.upper + room;
        }
        if (!touches) continue;
        for (std::size_t i = 0; i < n_; ++i) {
          box.sides[i] = hull(box.sides[i], joined[k].sides[i]);
          box.without_lower[i] = box.without_lower[i] != 0 && joined[k].without_lower[i] != 0;
          box.without_upper[i] = box.without_upper[i] != 0 && joined[k].without_upper[i] != 0;
        }
        joined.erase(joined.begin() + static_cast<std::ptrdiff_t>(k));
        again = true;
        break;
      }
    }
    joined.push_back(std::move(box));
  }

  const Problem& problem_;
  IntervalTape tape_;
  IntervalTape::Workspace work_, point_work_; ///< of boxes, of points in them
  double sign_;
  std::size_t n_;
  std::vector<Enclosure> region_;
  double width_;
  std::vector<double> middle_;
  std::vector<Enclosure> point_;
  std::vector<std::size_t> free_;
  std::priority_queue<Box, std::vector<Box>, LaterFirst> queue_;
  std::vector<Box> final_; ///< that are not cut any more
  double best_ = infinity, last_width_ = 1, scale_ = 1;
  std::int64_t looked_at_ = 0;
};

Box whole(const tanzen::Box& region) {
  const auto n = static_cast<std::size_t>(region.dimension());
  Box box{std::vector<Enclosure>(n), -infinity, std::vector<char>(n, 0), std::vector<char>(n, 0)};
  for (std::size_t i = 0; i < n; ++i)
    box.sides[i] = {region.lower[static_cast<Index>(i)], region.upper[static_cast<Index>(i)]};
  return box;
}

} // namespace

MethodCard BranchAndBound::card() {
  return {.title = "branch and bound by interval arithmetic: a proof",
          .family = "global",
          .source = "Hansen and Walster, 2004; Hansen and Sengupta, 1981; Moore, Kearfott and Cloud, 2009",
          .limits = "only the region within them is searched",
          .summary =
              "The one method whose answer is certain: the best value within the region, and all points that have "
              "it. For formulas of a few variables; many variables, plateaus and flat valleys defeat it.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .formula = true}};
}

void BranchAndBound::settings(Settings& list) {
  list.add("tolerance", tolerance).positive().below(1).means("width of the enclosure of the value, relative to it");
  list.add("width", width).positive().below(1).means("of boxes that are not cut any more, relative to each variable");
  list.add("most-boxes", most_boxes).at_least(100).means("that may wait before it gives up");
}

Search BranchAndBound::search(Evaluator& evaluate, Start start) const {
  constexpr Index at_once = 100; // boxes an iteration
  const Problem& problem = evaluate.problem();
  const tanzen::Box region = problem.sampling_box();
  Partition partition(problem, whole(region), width);
  Vector best = start.point, middle(best.size());
  double best_value = start.value;
  const auto note = [&](const Vector& point) {
    const double value = evaluate(point);
    partition.lower_best(partition.highest_at(point));
    if (!(value < best_value) && region.contains(best)) return;
    best_value = value;
    best = point;
  };
  const auto descend_from = [&](const Vector& from) {
    Vector point = from.cwiseMax(region.lower).cwiseMin(region.upper);
    partition.descend(point);
    note(point);
  };
  descend_from(start.point);
  for (;;) {
    for (Index k = 0; k < at_once && !partition.is_empty(); ++k) {
      const double before = partition.best();
      if (!partition.step(middle, tolerance * partition.size_of_value(before))) continue;
      note(middle);
      if (partition.best() < before) descend_from(middle);
    }
    const double lower = partition.bound(), upper = partition.best();
    Iteration now(best, best_value);
    now.column("lower_bound", lower)
        .column("boxes", static_cast<double>(partition.waiting()))
        .column("looked_at", static_cast<double>(partition.looked_at()))
        .column("width", partition.last_width());
    if (partition.is_empty() && upper - lower <= tolerance * partition.size_of_value(upper)) {
      Proof proof{.lower = lower, .upper = upper, .looked_at = partition.looked_at()};
      proof.boxes = partition.minimizers();
      if (proof.boxes.empty()) throw std::logic_error("no box is left, and a minimizer must lie in one");
      evaluate.prove(std::move(proof));
      now.proved("no box outside those that are left has a value as low");
    } else if (partition.is_empty()) {
      now.stalled("the boxes are as narrow as they may be, and the value is not yet enclosed");
    } else if (static_cast<Index>(partition.waiting()) > most_boxes) {
      now.at_limit("as many boxes wait as are allowed");
    }
    co_yield now;
  }
}

} // namespace tanzen::methods
