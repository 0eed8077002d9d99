#include "tanzen/methods/global/branch_and_bound.hpp"

#include "box_partition.hpp"
#include "problem_over_boxes.hpp"
#include "tanzen/methods/global/local_search.hpp"
#include "tanzen/search/proof.hpp"

#include <cmath>
#include <optional>
#include <stdexcept>

namespace tanzen::methods {
namespace {

/// When a descent from a box's middle is worth its while though the value there is not lower: at every box until there
/// is a value, which takes one under constraints, then ever more seldom.
class Turns {
 public:
  bool is_next(std::int64_t looked_at, bool has_value) {
    if (looked_at < next_) return false;
    constexpr std::int64_t eager = 50;
    next_ = looked_at + (!has_value && looked_at < eager ? 1 : 5 + looked_at / 5);
    return true;
  }

 private:
  std::int64_t next_ = 0;
};

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
          .able = {.bounds = true, .equalities = true, .inequalities = true, .formula = true}};
}

void BranchAndBound::settings(Settings& list) {
  list.add("tolerance", tolerance).positive().below(1).means("width of the enclosure of the value, relative to it");
  list.add("width", width).positive().below(1).means("of boxes that are not cut any more, relative to each variable");
  list.add("most-boxes", most_boxes).at_least(100).means("that may wait before it gives up");
  list.add("at-once", at_once).at_least(1).means("boxes an iteration looks at");
  list.add("record", record).at_least(0).means("parts without a minimizer that are kept for a picture");
}

Search BranchAndBound::search(Evaluator& evaluate, Start start) const {
  const Problem& problem = evaluate.problem();
  const Box region = problem.sampling_box();
  ProblemOverBoxes boxes(problem);
  BoxPartition partition(boxes, width, static_cast<std::size_t>(record));
  Vector best = start.point, middle(best.size());
  Standing best_standing{start.value, start.violation};
  bool is_settled = false; // whether the best was proved to be feasible
  const auto note = [&](const Vector& point) {
    const double highest = boxes.highest_at(point);
    const Standing standing = standing_at(evaluate, point);
    if (highest < partition.best()) boxes.remember(point);
    partition.lower_best(highest);
    const bool is_proved = std::isfinite(highest);
    if (is_settled && !is_proved) return;
    if (is_settled == is_proved && !(standing.value < best_standing.value) && region.contains(best)) return;
    best_standing = standing;
    best = point;
    is_settled = is_proved;
  };
  std::optional<LocalSearch> local;
  if (boxes.rows() > 0) local.emplace(evaluate, LocalChoice{});
  Turns turns;
  const auto descend_from = [&](const Vector& from) {
    Vector point = from.cwiseMax(region.lower).cwiseMin(region.upper);
    if (local) {
      const RandomStream random = start.random.child({"local", partition.looked_at()});
      (void)local->improve(point, standing_at(evaluate, point), random);
      point = point.cwiseMax(region.lower).cwiseMin(region.upper);
    }
    boxes.descend(point);
    note(point);
  };
  descend_from(start.point);
  // The first iteration looks at the whole region only, so that there is a bound however little time there is.
  for (Index most = 1;; most = at_once) {
    for (Index k = 0; k < most && !partition.is_empty(); ++k) {
      const double before = partition.best();
      if (!partition.step(middle, tolerance * partition.size_of_value(before))) continue;
      const bool is_lower = boxes.rows() == 0 && boxes.highest_at(middle) < before;
      if (is_lower) note(middle);
      if (turns.is_next(partition.looked_at(), std::isfinite(before)) || is_lower) descend_from(middle);
    }
    const double lower = partition.bound(), upper = partition.best();
    Iteration now(best, best_standing.value);
    if (boxes.rows() > 0) now.violation(best_standing.violation);
    now.column("lower_bound", lower)
        .column("boxes", static_cast<double>(partition.waiting()))
        .column("looked_at", static_cast<double>(partition.looked_at()))
        .column("width", partition.last_width());
    if (partition.is_empty() && std::isfinite(upper) && upper - lower <= tolerance * partition.size_of_value(upper)) {
      Proof proof{.lower = lower, .upper = upper, .looked_at = partition.looked_at()};
      proof.boxes = partition.minimizers();
      proof.removed = partition.removed();
      if (proof.boxes.empty()) throw std::logic_error("no box is left, and a minimizer must lie in one");
      evaluate.prove(std::move(proof));
      now.proved("no box outside those that are left has a value as low");
    } else if (partition.is_empty() && partition.waiting() == 0) {
      now.infeasible("no point of the region keeps all constraints, which is proved");
    } else if (partition.is_empty() && !std::isfinite(upper)) {
      now.stalled("the boxes are as narrow as they may be, and none is proved to hold a feasible point");
    } else if (partition.is_empty()) {
      now.stalled("the boxes are as narrow as they may be, and the value is not yet enclosed");
    } else if (static_cast<Index>(partition.waiting()) > most_boxes) {
      now.at_limit("as many boxes wait as are allowed");
    }
    co_yield now;
  }
}

} // namespace tanzen::methods
