#include "tanzen/methods/population/population.hpp"

#include "tanzen/numeric/sampling.hpp"
#include "tanzen/search/relative_gradient.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

void Members::evaluate_by(Evaluator& evaluate) {
  if (evaluate.part_counts().constraints == 0) {
    evaluate.values(points, values);
    violations.setZero(size());
    return;
  }
  const Evaluations& all = evaluate.at(points);
  values = all.values;
  violations = all.violations;
}

void Members::take(Index k, const Members& others, Index other) {
  points.col(k) = others.points.col(other);
  values[k] = others.values[other];
  violations[k] = others.violations[other];
}

void ConstraintRules::settings(Settings& list) {
  list.add("constraints", rule, {{"feasibility-rules", Rule::feasibility}, {"epsilon-level", Rule::falling_level}})
      .means("who ranks first: feasible members, or those up to a level of violation that falls");
}

double planned_evaluations(const Evaluator& evaluate) {
  const auto limit = evaluate.evaluation_limit();
  const double spent = static_cast<double>(evaluate.counts()[Spent::evaluations]);
  return limit ? static_cast<double>(*limit) - spent : 1e4 * static_cast<double>(evaluate.dimension());
}

Population::Population(Evaluator& evaluate, const Start& start, Index count, const ConstraintRules& rules)
    : tolerance_(evaluate.feasibility()), level_(tolerance_) {
  constexpr double part_of_plan = 0.8, part_of_members = 0.2;
  problem_ = &evaluate.problem();
  begun_ = static_cast<double>(evaluate.counts()[Spent::evaluations]);
  falls_over_ = part_of_plan * planned_evaluations(evaluate);
  Members others{
      .points = latin_hypercube_points(evaluate.problem().sampling_box(), count, start.random.child({"population"}))
                    .rightCols(count - 1)};
  others.evaluate_by(evaluate);
  points.resize(start.point.size(), count);
  values.resize(count);
  violations.resize(count);
  points << start.point, others.points;
  values << start.value, others.values;
  violations << start.violation, others.violations;
  if (rules.rule == ConstraintRules::Rule::feasibility || evaluate.part_counts().constraints == 0) return;
  Vector sorted = violations;
  const auto place = sorted.begin() + static_cast<Index>(part_of_members * static_cast<double>(count));
  std::nth_element(sorted.begin(), place, sorted.end());
  if (std::isfinite(*place)) first_level_ = *place;
  level_ = std::max(tolerance_, first_level_);
  first_diversity_ = std::max(diversity(), std::numeric_limits<double>::min());
}

Index Population::best() const {
  Index best = 0;
  for (Index k = 1; k < size(); ++k) {
    if (is_better((*this)[k], (*this)[best])) best = k;
  }
  return best;
}

void Population::sort(std::vector<Index>& order) const {
  sort_places(size(), order, [this](Index a, Index b) { return is_better((*this)[a], (*this)[b]); });
}

void Population::keep(const std::vector<Index>& members) {
  points = Matrix(points(Eigen::all, members));
  values = Vector(values(members));
  violations = Vector(violations(members));
}

void Population::lower_level(const Evaluator& evaluate) {
  constexpr double power = 5; // cp of the paper
  if (level_ <= tolerance_) return;
  const double part = (static_cast<double>(evaluate.counts()[Spent::evaluations]) - begun_) / falls_over_;
  // The paper's fall alone comes too late where the first violations span many decades (hock-schittkowski-66), and
  // where the population collapses inside the level (hock-schittkowski-19): of ten runs of adaptive differential
  // evolution three then solve the first and none the second; nine and ten with the two below.
  if (part >= 1) {
    level_ = tolerance_;
    return;
  }
  const double in_decades = std::pow(tolerance_ / first_level_, std::pow(part, 1.5));
  const double narrowed = diversity() / first_diversity_;
  const double wanted = first_level_ * std::min({std::pow(1 - part, power), in_decades, narrowed});
  level_ = std::max(tolerance_, std::min(level_, wanted));
}

double Population::diversity() {
  centroid_ = points.rowwise().mean();
  deviations_ = (points.colwise() - centroid_).cwiseAbs().rowwise().mean();
  return deviations_.mean();
}

Iteration Population::iteration(double collapse) {
  const Index best_member = best();
  best_point_ = points.col(best_member);
  const double distance = diversity();
  double sum = 0;
  Index with_value = 0;
  for (const double value : values) {
    if (!std::isfinite(value)) continue;
    sum += value;
    ++with_value;
  }
  const double mean =
      with_value == 0 ? std::numeric_limits<double>::quiet_NaN() : sum / static_cast<double>(with_value);
  Iteration now(best_point_, values[best_member]);
  now.population(points, values).violation(violations[best_member]);
  now.column("diversity", distance).column("mean", mean);
  if (first_level_ > 0) now.column("level", level_);
  const bool is_one_value = with_value == size() && values.maxCoeff() == values.minCoeff();
  const bool is_one_point = relative_size(*problem_, best_point_, deviations_) <= collapse;
  if (!is_feasible(best_member) && (is_one_point || is_one_value))
    now.stalled("the population has collapsed to a point that breaks constraints");
  else if (is_one_point)
    now.settled("the population has collapsed to one point");
  else if (is_one_value && violations.maxCoeff() <= tolerance_)
    now.settled("all members have the same value");
  return now;
}

void add_collapse(Settings& list, double& collapse) {
  list.add("collapse", collapse)
      .at_least(0)
      .means("done when the population is narrower than this, relative to each variable's size");
}

void sort_by_value(const Vector& values, std::vector<Index>& order) {
  sort_places(values.size(), order, [&](Index a, Index b) { return values[a] < values[b]; });
}

Index another(Index count, std::span<const Index> taken, RandomStream& random) {
  for (;;) {
    const Index candidate = random.below(count);
    if (std::ranges::find(taken, candidate) == taken.end()) return candidate;
  }
}

} // namespace tanzen::methods
