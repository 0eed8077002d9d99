#include "tanzen/methods/global/single_linkage.hpp"

#include "near_points.hpp"
#include "tanzen/methods/direct/region_scale.hpp"
#include "tanzen/methods/global/multistart.hpp"
#include "tanzen/methods/population/population.hpp"
#include "tanzen/numeric/sampling.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>
#include <numbers>
#include <queue>
#include <vector>

namespace tanzen::methods {
namespace {

/// The best part of a growing number, as its last member: two heaps, the best part with its worst on top.
template <class Before>
class BestPart {
 public:
  BestPart(double part, Before before)
      : part_(part), before_(before), best_(before), rest_([before](Index a, Index b) { return before(b, a); }) {}

  void add(Index k) {
    rest_.push(k);
    ++count_;
    const auto wanted = static_cast<std::size_t>(std::ceil(part_ * static_cast<double>(count_)));
    if (!best_.empty() && before_(rest_.top(), best_.top())) {
      rest_.push(best_.top());
      best_.pop();
    }
    while (best_.size() < wanted) {
      best_.push(rest_.top());
      rest_.pop();
    }
  }
  [[nodiscard]] bool holds(Index k) const { return part_ >= 1 || !before_(best_.top(), k); }

 private:
  using Heap = std::priority_queue<Index, std::vector<Index>, std::function<bool(Index, Index)>>;

  double part_;
  Before before_;
  std::size_t count_ = 0;
  Heap best_, rest_;
};

/// All points so far, in coordinates where the region is the unit cube. What a sample costs grows with the points near
/// its points, which are as the logarithm of all.
class Sample {
 public:
  /// What is broken by at most `level` is ranked by its value; the best `part` may be starts.
  Sample(const Box& box, double sigma, double level, double part)
      : box_(box), sigma_(sigma), level_(level), near_(box.lower.size()),
        best_part_(part, [this](Index a, Index b) { return is_before(a, b); }) {}
  Sample(const Sample&) = delete;
  Sample& operator=(const Sample&) = delete;

  void add(const Members& added) {
    const auto width = region_scale(box_);
    const Index before = near_.size();
    for (Index k = 0; k < added.size(); ++k) {
      near_.add(((added.points.col(k) - box_.lower).array() / width.array()).matrix());
      points_.emplace_back(added.points.col(k));
      standings_.push_back(added[k]);
      nearest_better_.push_back(std::numeric_limits<double>::infinity());
      lowest_ = std::min(lowest_, added.values[k]);
      highest_ = std::max(highest_, added.values[k]);
    }
    near_.narrow(critical_distance());
    for (Index k = before; k < near_.size(); ++k) {
      note_near(k);
      best_part_.add(k);
      waiting_.push_back(k);
    }
  }

  /// Points among the best part that have no better one within the critical distance, and that no search has begun at,
  /// best first.
  void starts(std::vector<Index>& chosen) {
    const double distance = critical_distance(), squared = distance * distance;
    while (!covered_.empty() && covered_.top().squared > squared) {
      waiting_.push_back(covered_.top().place);
      covered_.pop();
    }
    chosen.clear();
    std::vector<Index> still;
    for (const Index k : waiting_) {
      if (nearest_better_[place(k)] <= squared)
        covered_.push({nearest_better_[place(k)], k});
      else if (std::isfinite(standings_[place(k)].value))
        (best_part_.holds(k) ? chosen : still).push_back(k);
    }
    waiting_.swap(still);
    std::sort(chosen.begin(), chosen.end(), [this](Index a, Index b) { return is_before(a, b); });
  }
  [[nodiscard]] bool is_flat() const { return lowest_ == highest_; }

  [[nodiscard]] const Vector& point(Index k) const { return points_[place(k)]; }
  [[nodiscard]] Standing standing(Index k) const { return standings_[place(k)]; }

 private:
  /// A point that has a better one within the critical distance, and how near.
  struct Covered {
    double squared;
    Index place;
    [[nodiscard]] bool operator<(const Covered& other) const { return squared < other.squared; }
  };

  static std::size_t place(Index k) { return static_cast<std::size_t>(k); }
  [[nodiscard]] bool is_better(Index a, Index b) const { return standing(a).is_better_than(standing(b), level_); }
  /// The order of ranks: equal ones as they came.
  [[nodiscard]] bool is_before(Index a, Index b) const { return is_better(a, b) || (!is_better(b, a) && a < b); }

  /// That of the paper, for a region of volume 1; it falls from the third point on.
  [[nodiscard]] double critical_distance() const {
    const auto count = static_cast<double>(std::max<Index>(3, near_.size()));
    const auto n = static_cast<double>(box_.lower.size());
    return std::pow(std::tgamma(1 + n / 2) * sigma_ * std::log(count) / count, 1 / n) / std::sqrt(std::numbers::pi);
  }

  /// Squared distances to the nearest better point, as far as they are near: what is farther covers nothing any more,
  /// as the distance only shrinks.
  void note_near(Index k) {
    near_.visit(k, [&](Index other, double squared) {
      if (is_better(other, k))
        nearest_better_[place(k)] = std::min(nearest_better_[place(k)], squared);
      else if (is_better(k, other))
        nearest_better_[place(other)] = std::min(nearest_better_[place(other)], squared);
    });
  }

  Box box_;
  double sigma_, level_;
  double lowest_ = std::numeric_limits<double>::infinity(), highest_ = -std::numeric_limits<double>::infinity();
  NearPoints near_;
  std::vector<Vector> points_;
  std::vector<Standing> standings_;
  std::vector<double> nearest_better_;
  BestPart<std::function<bool(Index, Index)>> best_part_;
  std::priority_queue<Covered> covered_;
  std::vector<Index> waiting_; ///< not covered when last looked at, and no search has begun there
};

} // namespace

MethodCard SingleLinkage::card() {
  return {.title = "multi-level single linkage: local searches from clustered random points",
          .family = "global",
          .source = "Rinnooy Kan and Timmer, 1987; stopping rule: Boender and Rinnooy Kan, 1987",
          .limits = "points are drawn within them, and the local method keeps them",
          .summary = "Finds and lists all minima of a smooth function of a few variables, with few local searches more "
                     "than there are minima.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true}};
}

void SingleLinkage::settings(Settings& list) {
  local.settings(list);
  list.add("sample", sample)
      .at_least(2)
      .at_most(1e6)
      .unset_means("50 for each variable, at least 100")
      .means("points an iteration");
  list.add("reduced", reduced).above(0).at_most(1).means("part of the sample, the best, that searches may start from");
  list.add("distance", distance).positive().means("sigma of the critical distance; larger means fewer searches");
  list.add("patience", patience).at_least(1).means("iterations without a new minimum until it may be done");
}

Search SingleLinkage::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size(), count = sample.value_or(std::max<Index>(100, 50 * n));
  const Box box = evaluate.problem().sampling_box();
  LocalSearch descend(evaluate, local);
  Sample all(box, distance, evaluate.feasibility(), reduced);
  Vector x, best = start.point;
  std::vector<Index> chosen;
  Standing best_standing{start.value, start.violation};
  std::int64_t searches = 0;
  Index idle = 0;
  all.add({.points = start.point,
           .values = Vector::Constant(1, start.value),
           .violations = Vector::Constant(1, start.violation)});
  for (std::int64_t iteration = 1;; ++iteration) {
    Members drawn{.points = uniform_points(box, count, start.random.child({"sample", iteration}))};
    drawn.evaluate_by(evaluate);
    all.add(drawn);
    const std::size_t before = evaluate.minima().all().size();
    all.starts(chosen);
    if (all.is_flat()) chosen.clear(); // a plateau is no place to search
    for (const Index k : chosen) {
      x = all.point(k);
      const auto found = descend.improve(x, all.standing(k), start.random.child({"local", searches}));
      ++searches;
      if (found.settled) note_minimum(evaluate, x, found.standing);
      if (descend.is_better(best_standing, found.standing)) continue;
      best = x;
      best_standing = found.standing;
    }
    const std::size_t minima = evaluate.minima().all().size();
    idle = minima > before ? 0 : idle + 1;
    Iteration now(best, best_standing.value);
    now.violation(best_standing.violation);
    now.column("minima", static_cast<double>(minima)).column("searches", static_cast<double>(searches));
    if (idle >= patience && probably_all_found(searches, static_cast<std::int64_t>(minima)))
      now.settled("no further minimum is to be expected");
    if (all.is_flat()) now.settled("all values are the same");
    if (idle >= 3 * patience) now.settled("no new minimum has been found for long");
    co_yield now;
  }
}

} // namespace tanzen::methods
