#include "tanzen/methods/constrained/penalty.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

/// What the problem minimizes, plus price/2 times each squared violation, or price times each violation.
class Charged final : public Scalarization {
 public:
  Charged(const Problem& problem, Penalty::Kind kind, double first_price)
      : price(first_price), kind_(kind), rows_(problem.constraints()), own_(*problem.scalarization()) {}

  double price;

  [[nodiscard]] double value(const Evaluation& at) const override {
    const auto c = at.constraints();
    double sum = 0;
    for (Index i = 0; i < c.size(); ++i) {
      const double d = outside(i, c[i]);
      sum += is_quadratic() ? 0.5 * d * d : std::abs(d);
    }
    return own_.value(at) + price * sum;
  }
  void slopes(const Evaluation& at, Vector& by_part) const override {
    const auto c = at.constraints();
    own_.slopes(at, by_part);
    auto slope = by_part.segment(at.counts().objectives, c.size());
    for (Index i = 0; i < c.size(); ++i) {
      const double d = outside(i, c[i]);
      slope[i] = price * (is_quadratic() ? d : static_cast<double>((d > 0) - (d < 0)));
    }
  }
  bool bends(const Evaluation& at, Vector& by_part) const override {
    const bool is_bent = own_.bends(at, by_part);
    if (!is_quadratic()) return is_bent;
    if (!is_bent) by_part.setZero();
    const auto c = at.constraints();
    auto bend = by_part.segment(at.counts().objectives, c.size());
    for (Index i = 0; i < c.size(); ++i) bend[i] = outside(i, c[i]) != 0 ? price : 0;
    return true;
  }

 private:
  [[nodiscard]] bool is_quadratic() const { return kind_ == Penalty::Kind::quadratic; }
  [[nodiscard]] double outside(Index i, double c) const { return rows_[static_cast<std::size_t>(i)].outside(c); }

  Penalty::Kind kind_;
  const std::vector<Constraint>& rows_;
  const Scalarization& own_;
};

} // namespace

MethodCard Penalty::card() {
  return {.title = "quadratic or absolute penalties with a growing price",
          .family = "constrained",
          .source = "Courant, 1943; Fiacco and McCormick, 1968; Nocedal and Wright, 2006, frameworks 17.1 and 17.2",
          .limits = "bounds by the local method, constraints by their price",
          .summary = "What one does by hand, to see what it costs: augmented-lagrangian needs no price without end.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true}};
}

void Penalty::settings(Settings& list) {
  local.settings(list);
  list.add("kind", kind, {{"quadratic", Kind::quadratic}, {"absolute", Kind::absolute}})
      .means("what a broken constraint is charged by: half its square, or its size");
  list.add("price", price).positive().means("the first price of a broken constraint");
  list.add("growth", growth).above(1).at_most(1e6).means("of the price, as long as constraints are broken");
  list.add("accuracy", accuracy).positive().means("gradient norm at which local searches end, once near");
}

Search Penalty::search(Evaluator& evaluate, Start start) const {
  constexpr double largest_price = 1e14;
  constexpr Index most_idle = 2;
  Vector x = start.point, before = x;
  Charged charged(evaluate.problem(), kind, price);
  Evaluator inner = evaluate.with(charged);
  LocalSearch descend(inner, local, {.constraints = true});
  StopRules rules{.iterations = 1000, .gradient_tolerance = {}, .gradient_norm = 1e-2};
  Index idle = 0;
  for (Index k = 0;; ++k) {
    const double from = charged.value(evaluate.at(x));
    const LocalSearch::Result found = descend.improve(x, {from}, start.random.child({k}), rules);
    const Evaluation& at = evaluate.at(x);
    const bool is_kept = at.violation <= evaluate.feasibility();
    idle = is_kept && (x - before).norm() <= 1e-8 * (1 + x.norm()) ? idle + 1 : 0;
    Iteration iteration(x, at.value);
    iteration.violation(at.violation)
        .column("price", charged.price)
        .column("inner_iterations", static_cast<double>(found.iterations));
    if (idle >= most_idle) iteration.settled("a higher price does not move the point any more");
    if (charged.price >= largest_price && is_kept) iteration.stalled("the largest price leads no further");
    if (charged.price >= largest_price && !evaluate.incumbent().is_feasible())
      iteration.infeasible("the largest price does not lower the violation any more");
    co_yield iteration;
    charged.price = std::min(growth * charged.price, largest_price);
    before = x;
    rules.gradient_norm = std::max(accuracy, 0.1 * *rules.gradient_norm);
  }
}

} // namespace tanzen::methods
