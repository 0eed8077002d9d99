#include "tanzen/search/incumbent.hpp"

#include "tanzen/search/standing.hpp"

#include <algorithm>

namespace tanzen {

Incumbent::Incumbent(const Problem& problem, double feasibility)
    : problem_(&problem), feasibility_(feasibility), bounded_(problem.bounds().any()), point_(problem.dimension()) {}

void Incumbent::set_target(double target, std::string message) {
  target_ = target;
  target_message_ = std::move(message);
}

bool Incumbent::is_outside(const Vector& x) {
  if (!bounded_ || problem_->bounds().contains(x)) return false;
  ++outside_bounds_;
  return true;
}

void Incumbent::note(const Vector& x, double value, const Counts& counts) {
  if (!is_outside(x)) take(x, value, 0, counts);
}

void Incumbent::see(const Vector& x, double value, const Evaluation& at, const Counts& counts) {
  const bool is_feasible = at.violation <= feasibility_;
  const bool is_better = Standing{value, at.violation}.is_better_than({value_, violation_}, feasibility_);
  const bool has_several = at.counts().objectives > 1;
  if ((!is_better && !(has_several && is_feasible)) || is_outside(x)) return;
  if (has_several && is_feasible) add_to_front(x, at);
  if (is_better) take(x, value, at.violation, counts);
}

void Incumbent::take(const Vector& x, double value, double violation, const Counts& counts) {
  value_ = value;
  violation_ = violation;
  point_ = x;
  found_at_ = counts[Spent::evaluations];
  has_point_ = true;
  if (violation > feasibility_) return;
  bar_ = value;
  while (milestone_counts_.size() < milestones_.size() && value <= milestones_[milestone_counts_.size()])
    milestone_counts_.push_back(counts);
  if (value <= target_) throw RunEnded{Status::target, target_message_};
}

void Incumbent::add_to_front(const Vector& x, const Evaluation& at) {
  const auto objectives = at.objectives();
  const auto is_covered = [&](const FrontPoint& other) {
    return (other.objectives.array() <= objectives.array()).all();
  };
  if (std::ranges::any_of(front_, is_covered)) return;
  std::erase_if(front_,
                [&](const FrontPoint& other) { return (objectives.array() <= other.objectives.array()).all(); });
  front_.push_back({x, objectives});
}

} // namespace tanzen
