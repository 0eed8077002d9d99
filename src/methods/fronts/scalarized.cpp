#include "scalarized.hpp"

#include <cmath>
#include <utility>

namespace tanzen::methods {
namespace {

/// Local searches on parts of one run's problem.
class PartSearch {
 public:
  PartSearch(Evaluator& evaluate, const LocalChoice& local) : evaluate_(evaluate), local_(local) {}

  /// From a point, to where the part ends; `point` is then the best of it. The points asked for count in the run.
  void improve(const PartProblem& part, Vector& point, const Vector& extras, const RandomStream& random) {
    const Index n = point.size();
    const Problem problem = problem_of(evaluate_, part);
    Evaluator inner(problem, {.evaluations = std::nullopt, .feasibility = evaluate_.feasibility()},
                    DerivativeMode::automatic);
    LocalSearch descend(inner, local_);
    Vector x(n + extras.size());
    x.head(n) = point;
    x.tail(extras.size()) = extras;
    const Evaluation& at = inner.at(x);
    const Standing standing{at.value, at.violation};
    const LocalSearch::Result result =
        descend.improve(x, standing, random,
                        {.iterations = 500, .gradient_tolerance = 1e-9, .value_tolerance = 1e-13, .window = 2 * n + 5});
    point = x.head(n);
    all_settled_ = all_settled_ && result.settled && result.standing.violation <= evaluate_.feasibility();
  }
  /// Whether each search so far ended by itself, at a point that keeps its limits.
  [[nodiscard]] bool all_settled() const { return all_settled_; }

 private:
  bool all_settled_ = true;
  Evaluator& evaluate_;
  const LocalChoice& local_;
};

/// The point of the front so far that is best by something.
const FrontPoint& best_of(const std::vector<FrontPoint>& front, const std::function<double(const Vector&)>& merit) {
  const FrontPoint* best = &front.front();
  double least = std::numeric_limits<double>::infinity();
  for (const FrontPoint& each : front) {
    const double value = merit(each.objectives);
    if (!(value < least)) continue;
    least = value;
    best = &each;
  }
  return *best;
}

/// One objective, and as much of the others as leaves no better point of the same value.
PartProblem alone(Index objectives, Index which) {
  constexpr double little = 1e-7;
  Matrix row = Matrix::Constant(1, objectives, little);
  row(0, which) = 1;
  return {.of_objectives = row};
}

} // namespace

Matrix scaling_rows(const FrontRange& range) {
  return range.width.cwiseInverse().asDiagonal();
}

void add_scalarization(Settings& list, Index& points, LocalChoice& local, std::string_view meaning) {
  list.add("points", points).at_least(2).at_most(1e5).means(meaning);
  local.settings(list);
}

MethodCard scalarization_card(std::string title, std::string source, std::string summary) {
  return {.title = std::move(title),
          .family = "fronts",
          .source = std::move(source),
          .limits = "bounds and constraints by the local method",
          .summary = std::move(summary),
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true, .fronts = true}};
}

Search scalarized_search(Evaluator& evaluate, Start start, const LocalChoice& local, Matrix choices, PartOf part) {
  const Index m = evaluate.part_counts().objectives;
  PartSearch descend(evaluate, local);
  FrontMembers found;
  FrontStand stand;
  const auto front = [&]() -> const std::vector<FrontPoint>& { return evaluate.incumbent().front(); };
  Vector x = start.point;
  FrontRange range;
  range.ends.resize(m, m);
  for (Index k = 0; k < m; ++k) {
    x = start.point;
    descend.improve(alone(m, k), x, {}, start.random.child({"end", k}));
    const FrontMembers at = visited(evaluate, x);
    range.ends.col(k) = at.objectives.col(0);
    found.append(at);
    co_yield stand.iteration(evaluate, found);
  }
  constexpr double alike = 1e-8; // as near as local searches come
  if (((range.ends.colwise() - range.ends.col(0)).array().abs() <= alike * (1 + range.ends.array().abs())).all()) {
    Iteration now = stand.iteration(evaluate, found);
    now.settled("one point is the best of all objectives");
    co_yield now;
    co_return;
  }
  range.ideal = range.ends.rowwise().minCoeff();
  range.width =
      (range.ends.rowwise().maxCoeff() - range.ideal).unaryExpr([](double width) { return width > 0 ? width : 1.0; });
  for (Index k = 0; k < choices.cols(); ++k) {
    const ScalarizedPart each = part(range, choices.col(k));
    FrontPoint from{start.point, range.ends.col(0)};
    if (!front().empty()) from = best_of(front(), [&](const Vector& f) { return each.merit(range.scaled(f)); });
    x = from.point;
    descend.improve(each.problem, x, each.first_extras ? each.first_extras(range.scaled(from.objectives)) : Vector(),
                    start.random.child({"part", k}));
    found.append(visited(evaluate, x));
    Iteration now = stand.iteration(evaluate, found);
    if (k + 1 == choices.cols() && descend.all_settled())
      now.settled("every local search for a point of the front has ended");
    if (k + 1 == choices.cols() && !descend.all_settled())
      now.at_limit("all points have been looked for, and not every local search ended by itself");
    co_yield now;
  }
}

} // namespace tanzen::methods
