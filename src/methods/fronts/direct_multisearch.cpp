#include "tanzen/methods/fronts/direct_multisearch.hpp"

#include "front_members.hpp"

#include <algorithm>
#include <optional>

namespace tanzen::methods {
namespace {

/// Points that none of the others comes before, each with its step.
class SteppedList {
 public:
  SteppedList(double feasibility) : feasibility_(feasibility) {}

  [[nodiscard]] const FrontMembers& members() const { return members_; }
  [[nodiscard]] double& step(Index k) { return steps_[static_cast<std::size_t>(k)]; }

  /// Takes the other members that belong in the list, and drops those that they come before. How many were taken.
  Index merge(const FrontMembers& others, double step) {
    Index taken = 0;
    for (Index k = 0; k < others.size(); ++k) taken += take(others, k, step) ? 1 : 0;
    return taken;
  }

  /// The one with most room among those whose step is not small, of several the one with the longest step.
  [[nodiscard]] std::optional<Index> center(double smallest) const {
    const Vector room = crowding_of(members_.objectives);
    std::optional<Index> best;
    const auto step_of = [&](Index k) { return steps_[static_cast<std::size_t>(k)]; };
    for (Index k = 0; k < members_.size(); ++k) {
      if (step_of(k) < smallest) continue;
      if (!best || room[k] > room[*best] || (room[k] == room[*best] && step_of(k) > step_of(*best))) best = k;
    }
    return best;
  }

 private:
  bool take(const FrontMembers& from, Index at, double step) {
    std::vector<Index> stay;
    for (Index k = 0; k < members_.size(); ++k) {
      const bool is_alike =
          members_.objectives.col(k) == from.objectives.col(at) && members_.violations[k] <= from.violations[at];
      if (is_alike || comes_before(members_, k, from, at, feasibility_)) return false;
      if (!comes_before(from, at, members_, k, feasibility_)) stay.push_back(k);
    }
    if (static_cast<Index>(stay.size()) < members_.size()) {
      members_ = members_.some(stay);
      std::vector<double> kept;
      for (const Index k : stay) kept.push_back(steps_[static_cast<std::size_t>(k)]);
      steps_ = std::move(kept);
    }
    members_.append(from.some({at}));
    steps_.push_back(step);
    return true;
  }

  double feasibility_;
  FrontMembers members_;
  std::vector<double> steps_;
};

} // namespace

MethodCard DirectMultisearch::card() {
  return {.title = "direct multisearch: a pattern search around nondominated points",
          .family = "fronts",
          .source = "Custódio, Madeira, Vaz and Vicente, 2011",
          .limits = "no point lies outside the bounds; infeasible points are left out, or the least infeasible kept "
                    "while there is no other",
          .summary = "Two or three objectives of few variables, and every run alike: nothing is drawn at random.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = false, .inequalities = true, .fronts = true}};
}

void DirectMultisearch::settings(Settings& list) {
  list.add("step", step).positive().at_most(1).means("the first step, in parts of the region's width");
  list.add("smallest", smallest).positive().below(1).means("a point whose step is below it is polled no more");
}

Search DirectMultisearch::search(Evaluator& evaluate, Start start) const {
  const Box box = evaluate.problem().sampling_box();
  const Vector widths = box.width();
  const Index n = widths.size();
  // The start, and a line through the region (section 5.2 of the paper).
  const Index on_line = std::max<Index>(n, 2);
  Matrix points(n, on_line + 1);
  points.col(0) = start.point;
  for (Index k = 0; k < on_line; ++k)
    points.col(k + 1) = box.lower + (static_cast<double>(k) / static_cast<double>(on_line - 1)) * widths;
  SteppedList list(evaluate.feasibility());
  list.merge(visited(evaluate, points), step);
  FrontStand stand;
  for (;;) {
    const auto center = list.center(smallest);
    Iteration now = stand.iteration(evaluate, list.members());
    if (!center) now.settled("the steps of all points are small");
    now.column("step", center ? list.step(*center) : smallest);
    co_yield now;
    if (!center) co_return;
    const Vector at = list.members().points.col(*center);
    const double length = list.step(*center);
    std::vector<Vector> poll;
    for (const double side : {1.0, -1.0})
      for (Index j = 0; j < n; ++j) {
        Vector point = at;
        point[j] += side * length * widths[j];
        evaluate.bounds().project(point);
        if (point != at) poll.push_back(std::move(point));
      }
    Matrix polled(n, static_cast<Index>(poll.size()));
    for (std::size_t k = 0; k < poll.size(); ++k) polled.col(static_cast<Index>(k)) = poll[k];
    list.step(*center) /= 2; // unless something new is found; what is there then may be another place
    const Index taken = poll.empty() ? 0 : list.merge(visited(evaluate, polled), length);
    if (taken == 0) continue;
    for (Index k = 0; k < list.members().size(); ++k)
      if (list.members().points.col(k) == at) list.step(k) = length;
  }
}

} // namespace tanzen::methods
