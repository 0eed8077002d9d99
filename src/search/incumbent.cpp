#include "tanzen/search/incumbent.hpp"

#include "tanzen/search/standing.hpp"

#include <algorithm>

namespace tanzen {

Incumbent::Incumbent(const Problem& problem, double feasibility)
    : problem_(&problem), feasibility_(feasibility), bounded_(problem.bounds().any()), point_(problem.dimension()) {
  if (problem.objectives().size() > 1) front_.emplace(problem);
  if (!problem.is_noisy() || front_) return;
  const Problem exact = problem.exact().unheard();
  quiet_ = std::shared_ptr<const VectorFunction>(std::make_shared<Problem>(exact), &exact.objective());
  quiet_worker_ = quiet_->worker();
}

void Incumbent::set_target(double target, std::string message) {
  target_ = target;
  target_message_ = std::move(message);
  await();
}

void Incumbent::set_milestones(std::vector<double> milestones) {
  milestones_ = std::move(milestones);
  await();
}

bool Incumbent::is_outside(const Vector& x) {
  if (!bounded_ || problem_->bounds().contains(x)) return false;
  ++outside_bounds_;
  return true;
}

void Incumbent::note(const Vector& x, double value, const Counts& counts) {
  if (is_outside(x)) return;
  if (!quiet_) {
    take(x, value, 0, counts);
    return;
  }
  if (value < value_) take(x, value, 0, counts);
  judge(x, value, 0, counts);
}

void Incumbent::judge(const Vector& x, double value, double violation, const Counts& counts) {
  const double quiet = problem_->sign() * quiet_worker_->value(x);
  if (!(quiet <= target_)) {
    reach(quiet, counts);
    return;
  }
  take(x, value, violation, counts);
  reach(quiet, counts);
}

void Incumbent::see(const Vector& x, double value, const Evaluation& at, const Counts& counts) {
  const bool is_of_front = front_ && at.violation <= feasibility_;
  const bool is_better = Standing{value, at.violation}.is_better_than({value_, violation_}, feasibility_);
  const bool is_judged = quiet_ && at.violation <= feasibility_;
  if ((!is_better && !is_of_front && !is_judged) || is_outside(x)) return;
  if (is_judged) judge(x, value, at.violation, counts);
  if (is_better) take(x, value, at.violation, counts);
  if (is_of_front && front_->add(x, at.objectives())) reach(-front_->covered(), counts);
}

void Incumbent::take(const Vector& x, double value, double violation, const Counts& counts) {
  value_ = value;
  violation_ = violation;
  point_ = x;
  found_at_ = counts[Spent::evaluations];
  has_point_ = true;
  if (violation > feasibility_ || quiet_) return; // with noise every point is looked at
  bar_ = value;
  if (!front_) reach(value, counts);
}

void Incumbent::note_reached(double value, const Counts& counts) {
  while (milestone_counts_.size() < milestones_.size() && value <= milestones_[milestone_counts_.size()])
    milestone_counts_.push_back(counts);
  await();
  if (value <= target_) throw RunEnded{Status::target, target_message_};
}

void Incumbent::await() {
  awaited_ = target_;
  if (milestone_counts_.size() < milestones_.size())
    awaited_ = std::max(awaited_, milestones_[milestone_counts_.size()]);
}

const std::vector<FrontPoint>& Incumbent::front() const {
  static const std::vector<FrontPoint> none;
  return front_ ? front_->points() : none;
}

double Incumbent::covered() const {
  return front_ ? front_->covered() : std::numeric_limits<double>::quiet_NaN();
}

} // namespace tanzen
