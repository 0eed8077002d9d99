#include "tanzen/methods/fronts/reference_points.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/numeric/factors.hpp"
#include "tanzen/numeric/sampling.hpp"

#include "front_variation.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <utility>

namespace tanzen::methods {
namespace {

/// Throws InputError for a lattice that nobody could fill.
void check_size(Index objectives, Index parts) {
  constexpr double most = 1e5;
  double size = 1;
  for (Index k = 1; k < objectives; ++k) size *= static_cast<double>(parts + k) / static_cast<double>(k);
  if (size > most)
    throw InputError(fmt::format("reference-points: {} parts of {} objectives are {} directions, and at most {} serve",
                                 parts, objectives, short_number(size, 4), number_text(most)));
}

/// Directions of length 1, a column each.
Matrix directions_for(Index objectives, const std::optional<Index>& parts) {
  constexpr std::array<Index, 5> usual_parts = {99, 12, 8, 6, 4};
  Matrix lattice;
  if (parts || objectives <= 6) {
    const Index steps = parts.value_or(usual_parts[static_cast<std::size_t>(std::min<Index>(objectives, 6) - 2)]);
    check_size(objectives, steps);
    lattice = simplex_lattice(objectives, steps);
  } else {
    const Matrix outer = simplex_lattice(objectives, 3), inner = simplex_lattice(objectives, 2);
    lattice.resize(objectives, outer.cols() + inner.cols());
    lattice << outer, (0.5 * inner).array() + 0.5 / static_cast<double>(objectives);
  }
  lattice.colwise().normalize();
  return lattice;
}

/// Who survives, by the directions.
class Niches {
 public:
  explicit Niches(Matrix directions)
      : directions_(std::move(directions)), ideal_(Vector::Constant(directions_.rows(), infinity)),
        extremes_(directions_.rows(), 0) {}

  [[nodiscard]] std::vector<Index> survivors(const FrontMembers& all, Index count, double feasibility,
                                             RandomStream& random) {
    const std::vector<int> ranks = ranks_of(all, feasibility);
    std::vector<Index> order(ranks.size());
    for (std::size_t k = 0; k < order.size(); ++k) order[k] = static_cast<Index>(k);
    const auto rank_of = [&](Index k) { return ranks[static_cast<std::size_t>(k)]; };
    std::ranges::stable_sort(order, {}, rank_of);
    const int last = rank_of(order[static_cast<std::size_t>(count) - 1]);
    const auto first_of_last = std::ranges::lower_bound(order, last, {}, rank_of),
               end = std::ranges::upper_bound(order, last, {}, rank_of);
    const bool is_exact = end - order.begin() == count, is_feasible = all.violations[*first_of_last] <= feasibility;
    if (is_exact || !is_feasible) {
      order.resize(static_cast<std::size_t>(count));
      return order;
    }
    std::vector<Index> chosen(order.begin(), first_of_last), candidates(first_of_last, end);
    order.erase(end, order.end());
    associate(all.objectives(Eigen::all, order), std::ranges::count(ranks, 0));
    fill(chosen, candidates, count, random);
    return chosen;
  }

 private:
  /// Algorithms 2 and 3: each of the members, those of the first rank in front, to its nearest direction.
  void associate(const Matrix& objectives, Index of_front) {
    ideal_ = ideal_.cwiseMin(objectives.rowwise().minCoeff());
    const Matrix moved = objectives.colwise() - ideal_;
    find_extremes(objectives);
    const Vector scales = intercepts(moved, std::min(of_front, moved.cols()));
    const Matrix scaled = moved.array().colwise() / scales.array();
    niche_.clear();
    distance_.clear();
    for (Index k = 0; k < scaled.cols(); ++k) {
      const Vector along = directions_.transpose() * scaled.col(k);
      Index nearest = 0;
      // The nearest line is the one that most of the point's length lies along.
      const double length = along.maxCoeff(&nearest);
      niche_.push_back(nearest);
      distance_.push_back(std::sqrt(std::max(0.0, scaled.col(k).squaredNorm() - length * length)));
    }
  }

  /// The members that are farthest along each axis, those of before among them.
  void find_extremes(const Matrix& objectives) {
    const Index m = objectives.rows();
    Matrix all(m, objectives.cols() + extremes_.cols());
    all.leftCols(objectives.cols()) = objectives;
    all.rightCols(extremes_.cols()) = extremes_; // none at first
    // In parts of what the members span, so that no unit tells which end is farther out.
    const Vector width = (objectives.rowwise().maxCoeff() - ideal_).cwiseMax(std::numeric_limits<double>::min());
    const Matrix moved = (all.colwise() - ideal_).array().colwise() / width.array();
    Matrix found(m, m);
    for (Index axis = 0; axis < m; ++axis) {
      constexpr double off_axis = 1e6;
      Vector weights = Vector::Constant(m, off_axis);
      weights[axis] = 1;
      Index best = 0;
      (moved.array().colwise() * weights.array()).colwise().maxCoeff().minCoeff(&best);
      found.col(axis) = all.col(best);
    }
    extremes_ = std::move(found);
  }

  /// Where the plane through the extremes meets the axes; the front's range where there is no such plane.
  [[nodiscard]] Vector intercepts(const Matrix& moved, Index of_front) const {
    const Index m = moved.rows();
    const Matrix corners = (extremes_.colwise() - ideal_).transpose();
    const Vector range = moved.leftCols(std::max<Index>(1, of_front)).rowwise().maxCoeff();
    Vector scales = (inverse_of(corners) * Vector::Ones(m)).cwiseInverse();
    if (!scales.allFinite() || (scales.array() <= 1e-6 * range.maxCoeff()).any()) scales = range;
    return scales.unaryExpr([](double scale) { return scale > 0 ? scale : 1.0; });
  }

  /// Algorithm 4: one member after the other from where fewest are. `candidates` were associated last.
  void fill(std::vector<Index>& chosen, const std::vector<Index>& candidates, Index count, RandomStream& random) {
    std::vector<Index> near(static_cast<std::size_t>(directions_.cols()), 0);
    std::vector<std::vector<std::size_t>> waiting(near.size());
    for (std::size_t k = 0; k < niche_.size(); ++k) {
      const auto niche = static_cast<std::size_t>(niche_[k]);
      if (k < chosen.size())
        ++near[niche];
      else
        waiting[niche].push_back(k);
    }
    const std::size_t before = chosen.size();
    while (static_cast<Index>(chosen.size()) < count) {
      Index least = std::numeric_limits<Index>::max();
      std::vector<std::size_t> emptiest;
      for (std::size_t niche = 0; niche < near.size(); ++niche) {
        if (waiting[niche].empty() || near[niche] > least) continue;
        if (near[niche] < least) emptiest.clear();
        least = near[niche];
        emptiest.push_back(niche);
      }
      const std::size_t niche = emptiest[static_cast<std::size_t>(random.below(static_cast<Index>(emptiest.size())))];
      auto& list = waiting[niche];
      const auto taken = least == 0 ? std::ranges::min_element(list, {}, [&](std::size_t k) { return distance_[k]; })
                                    : list.begin() + random.below(static_cast<Index>(list.size()));
      chosen.push_back(candidates[*taken - before]);
      list.erase(taken);
      ++near[niche];
    }
  }

  Matrix directions_;
  Vector ideal_;
  Matrix extremes_;
  std::vector<Index> niche_;
  std::vector<double> distance_;
};

} // namespace

MethodCard ReferencePoints::card() {
  return {.title = "elitist sorting with reference directions",
          .family = "fronts",
          .source = "Deb and Jain, 2014; Jain and Deb, 2014",
          .limits = "no child lies outside the bounds; constraints by feasibility first",
          .summary = "Three to ten objectives: members spread evenly by directions that are given in advance.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true, .fronts = true}};
}

void ReferencePoints::settings(Settings& list) {
  list.add("parts", parts)
      .at_least(1)
      .at_most(1000)
      .unset_means("99, 12, 8, 6, 4 for 2 to 6 objectives, then two layers of 3 and 2")
      .means("steps from corner to corner of the lattice of directions");
  list.add("population", population)
      .at_least(4)
      .at_most(1e5)
      .unset_means("the directions, filled up to a multiple of four")
      .means("members");
  variation.settings(list);
}

Search ReferencePoints::search(Evaluator& evaluate, Start start) const {
  RandomStream& random = start.random;
  Matrix directions = directions_for(evaluate.part_counts().objectives, parts);
  const Index count = population.value_or((directions.cols() + 3) / 4 * 4);
  Niches niches(std::move(directions));
  const Vector widths = evaluate.problem().sampling_box().width();
  const BoundedVariation vary = variation_of(variation, evaluate.bounds(), widths);
  FrontMembers parents = first_members(evaluate, start, count);
  FrontStand stand;
  for (;;) {
    // All that survived are alike, but for what constraints they break.
    const auto winner = [&] {
      const Index a = random.below(count), b = random.below(count);
      const double level = evaluate.feasibility();
      const double one = std::max(parents.violations[a], level), other = std::max(parents.violations[b], level);
      return other < one ? b : a;
    };
    FrontMembers all = parents;
    all.append(visited(evaluate, children_of(parents, count, vary, random, winner)));
    parents = all.some(niches.survivors(all, count, evaluate.feasibility(), random));
    co_yield stand.iteration(evaluate, parents);
  }
}

} // namespace tanzen::methods
