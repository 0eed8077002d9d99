#include "tanzen/methods/global/single_linkage.hpp"

#include "tanzen/methods/direct/region_scale.hpp"
#include "tanzen/methods/global/multistart.hpp"
#include "tanzen/methods/population/population.hpp"
#include "tanzen/numeric/sampling.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <vector>

namespace tanzen::methods {
namespace {

/// All points so far, in coordinates where the region is the unit cube.
class Sample {
 public:
  /// What is broken by at most `level` is ranked by its value.
  Sample(const Box& box, double sigma, double level) : box_(box), sigma_(sigma), level_(level) {}

  void add(const Members& added) {
    const Index before = size(), count = before + added.size();
    unit_.conservativeResize(added.points.rows(), count);
    const Vector width = region_scale(box_);
    unit_.rightCols(added.size()) = ((added.points.colwise() - box_.lower).array().colwise() / width.array()).matrix();
    all_.points.conservativeResize(added.points.rows(), count);
    all_.points.rightCols(added.size()) = added.points;
    all_.values.conservativeResize(count);
    all_.values.tail(added.size()) = added.values;
    all_.violations.conservativeResize(count);
    all_.violations.tail(added.size()) = added.violations;
    started_.resize(static_cast<std::size_t>(count), 0);
    sort_places(count, order_, [this](Index a, Index b) { return is_better(a, b); });
    note_nearest(before);
  }

  /// Points among the best part that have no better one within the critical distance, and that no search has begun at.
  void starts(double part, std::vector<Index>& chosen) {
    chosen.clear();
    const auto count = static_cast<double>(size()), n = static_cast<double>(unit_.rows());
    // The critical distance of the paper, for a region of volume 1.
    const double critical =
        std::pow(std::tgamma(1 + n / 2) * sigma_ * std::log(count) / count, 1 / n) / std::sqrt(std::numbers::pi);
    const auto reduced = static_cast<std::size_t>(std::ceil(part * count));
    for (std::size_t k = 0; k < std::min(reduced, order_.size()); ++k) {
      const Index candidate = order_[k];
      if (started_[static_cast<std::size_t>(candidate)] != 0 || !std::isfinite(all_.values[candidate])) continue;
      if (nearest_better_[candidate] > critical * critical) chosen.push_back(candidate);
    }
  }
  [[nodiscard]] bool is_flat() const { return all_.values.minCoeff() == all_.values.maxCoeff(); }
  void note_start(Index k) { started_[static_cast<std::size_t>(k)] = 1; }

  [[nodiscard]] auto point(Index k) const { return all_.points.col(k); }
  [[nodiscard]] Standing standing(Index k) const { return all_[k]; }

 private:
  [[nodiscard]] Index size() const { return unit_.cols(); }
  [[nodiscard]] bool is_better(Index a, Index b) const { return all_[a].is_better_than(all_[b], level_); }

  /// Squared distances to the nearest better point: they only fall as points are added.
  void note_nearest(Index first_new) {
    const Index count = size(), n = unit_.rows();
    nearest_better_.conservativeResize(count);
    nearest_better_.tail(count - first_new).setConstant(std::numeric_limits<double>::infinity());
    for (Index added = first_new; added < count; ++added) {
      const double* const here = unit_.col(added).data();
      for (Index k = 0; k < added; ++k) {
        const double* const there = unit_.col(k).data();
        double squared = 0;
        for (Index j = 0; j < n; ++j) squared += (here[j] - there[j]) * (here[j] - there[j]);
        const bool is_new_better = is_better(added, k);
        const Index worse = is_new_better ? k : added;
        if (squared < nearest_better_[worse] && (is_new_better || is_better(k, added)))
          nearest_better_[worse] = squared;
      }
    }
  }

  Box box_;
  double sigma_, level_;
  Members all_;
  Matrix unit_;
  Vector nearest_better_;
  std::vector<char> started_;
  std::vector<Index> order_;
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
  Sample all(box, distance, evaluate.feasibility());
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
    all.starts(reduced, chosen);
    if (all.is_flat()) chosen.clear(); // a plateau is no place to search
    for (const Index k : chosen) {
      all.note_start(k);
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
