#include "tanzen/analysis/fitting.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/numeric/factors.hpp"
#include "tanzen/numeric/random.hpp"
#include "tanzen/problem/definition.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <vector>

namespace tanzen {
namespace {

/// Where coordinates of starts are drawn: uniformly within bounds, or with a sign and over powers of ten.
class StartBox {
 public:
  explicit StartBox(const Problem& problem) : bounds_(problem.bounds()) {
    double largest = 1;
    if (problem.table() != nullptr && problem.table()->rows.size() > 0)
      largest = std::max(1.0, problem.table()->rows.cwiseAbs().maxCoeff());
    most_ = std::log10(largest) + 1;
    least_ = -std::log10(largest) - 2;
  }

  double draw(Index i, RandomStream& random) const {
    const double lower = bounds_.lower()[i], upper = bounds_.upper()[i];
    const bool is_closed = std::isfinite(lower) && std::isfinite(upper);
    if (is_closed && lower > 0 && upper > 100 * lower) return lower * std::pow(upper / lower, random.uniform());
    if (is_closed) return random.uniform(lower, upper);
    const double size = std::pow(10.0, random.uniform(least_, most_));
    const bool goes_down = std::isfinite(upper) || (!std::isfinite(lower) && random.uniform() < 0.5);
    const double from = std::isfinite(lower) ? lower : std::isfinite(upper) ? upper : 0;
    return goes_down ? from - size : from + size;
  }
  [[nodiscard]] bool is_closed() const { return bounds_.lower().allFinite() && bounds_.upper().allFinite(); }
  [[nodiscard]] std::string text() const {
    if (is_closed()) return "the bounds";
    return fmt::format("powers of ten from 1e{:.0f} to 1e{:.0f}{}", least_, most_,
                       bounds_.any() ? ", within the bounds" : "");
  }

 private:
  const Bounds& bounds_;
  double least_, most_;
};

struct Candidate {
  Vector point;
  double sum;
};

/// The sums at points, as a view of the problem's own scalarization; infinite where there is none.
double sum_at(const Problem& problem, FunctionWorker& worker, const Vector& x) {
  Vector parts;
  worker.outputs(x, parts);
  if (!parts.allFinite()) return std::numeric_limits<double>::infinity();
  const double sum = problem.scalarization()->value(Evaluation(parts, problem.parts()));
  return std::isfinite(sum) ? sum : std::numeric_limits<double>::infinity();
}

/// Puts the parameters that the residuals are linear in where they fit best with the others as they are, within their
/// bounds: they need no guess (Golub and Pereyra, 1973, section 2).
class LinearPart {
 public:
  explicit LinearPart(const Problem& problem)
      : problem_(problem), worker_(problem.bundle()->worker()), linear_(problem.linear_variables()) {}
  [[nodiscard]] bool any() const { return !linear_.empty(); }

  void fit(Vector& x) {
    if (linear_.empty()) return;
    worker_->outputs(x, parts_);
    worker_->jacobian(x, jacobian_);
    const auto& sum = dynamic_cast<const LossSum&>(*problem_.scalarization());
    const Index m = problem_.parts().residuals;
    Matrix columns = jacobian_.bottomRows(m)(Eigen::all, linear_);
    Vector residuals = parts_.tail(m);
    for (Index k = 0; k < m; ++k) {
      columns.row(k) *= sum.weight(k);
      residuals[k] *= sum.weight(k);
    }
    if (!columns.allFinite() || !residuals.allFinite()) return;
    const Vector change = least_squares(columns, -residuals);
    if (!change.allFinite()) return;
    x(linear_) += change;
    problem_.bounds().project(x);
  }

 private:
  const Problem& problem_;
  std::unique_ptr<FunctionWorker> worker_;
  std::vector<Index> linear_;
  Vector parts_;
  Matrix jacobian_;
};

/// The same fit to fewer rows of a long table, evenly taken: enough to find a start by.
Problem thinned(const Problem& problem) {
  constexpr Index enough = 1000;
  const auto& definition = problem.definition();
  if (definition == nullptr || !definition->fit || definition->fit->table->rows.rows() <= 2 * enough) return problem;
  const DataTable& all = *definition->fit->table;
  ProblemDefinition fewer = *definition;
  DataTable table{.columns = all.columns, .rows = Matrix(enough, all.rows.cols())};
  for (Index k = 0; k < enough; ++k) table.rows.row(k) = all.rows.row(k * (all.rows.rows() - 1) / (enough - 1));
  fewer.fit->table = std::make_shared<DataTable>(std::move(table));
  return build_problem(fewer).bounds(problem.bounds().lower(), problem.bounds().upper());
}

/// Of the best of many points the one from which a short run comes lowest.
Vector searched_start(const Problem& whole, const Method& by, const FitOptions& options, std::string& told) {
  const Problem problem = thinned(whole);
  constexpr Index per_parameter = 200, most_runs = 8;
  const Index n = problem.dimension(), count = options.starts.value_or(per_parameter * n);
  const StartBox box(problem);
  RandomStream random(options.run.seed, {"fit starts", problem.name()});
  const auto worker = problem.bundle()->worker();
  LinearPart linear(problem);
  std::vector<Candidate> drawn;
  for (Index k = 0; k < count; ++k) {
    Vector x(n);
    for (Index i = 0; i < n; ++i) x[i] = box.draw(i, random);
    linear.fit(x);
    if (const double sum = sum_at(problem, *worker, x); std::isfinite(sum)) drawn.push_back({x, sum});
  }
  if (drawn.empty())
    throw ProblemError(fmt::format("none of {} points, drawn over {}, gives the model a value at every row: say where "
                                   "to begin",
                                   count, box.text()));
  std::ranges::stable_sort(drawn, {}, &Candidate::sum);
  drawn.resize(std::min<std::size_t>(drawn.size(), most_runs));
  Candidate best = drawn.front(); // the point drawn, with the sum that a short run from it came to
  RunOptions brief{.seed = options.run.seed, .stop = {.iterations = 40}};
  brief.trace = {.most_rows = 4};
  for (const Candidate& each : drawn) {
    brief.start = Coordinates(each.point);
    const Outcome outcome = run(problem, by, brief);
    if (outcome.value < best.sum) best = {each.point, outcome.value};
  }
  told = fmt::format("found among {} over {}{}, by short runs from the best {}",
                     counted(static_cast<long long>(count), "point"), box.text(),
                     linear.any() ? ", linear parameters fitted" : "", drawn.size());
  return best.point;
}

/// Of the weighted residuals, made the standard deviation's equal for normal ones.
double spread_of(const Problem& problem, const Vector& x) {
  const auto& sum = dynamic_cast<const LossSum&>(*problem.scalarization());
  Vector parts;
  problem.bundle()->worker()->outputs(x, parts);
  std::vector<double> sizes;
  for (Index k = 0; k < problem.parts().residuals; ++k)
    sizes.push_back(std::abs(sum.weight(k) * parts[parts.size() - problem.parts().residuals + k]));
  const auto middle = sizes.begin() + static_cast<std::ptrdiff_t>(sizes.size() / 2);
  std::ranges::nth_element(sizes, middle);
  return *middle / 0.6745;
}

Problem with_loss(const Problem& problem, const Loss& loss) {
  const auto& sum = dynamic_cast<const LossSum&>(*problem.scalarization());
  Vector weights(problem.parts().residuals);
  for (Index k = 0; k < weights.size(); ++k) weights[k] = sum.weight(k);
  return problem.with_loss(loss, Coordinates(weights));
}

/// Takes the answer of another method where it is lower, and says how both stand.
void ask_second(Fit& made, const Method& second, const RunOptions& options) {
  constexpr double alike = 1e-9; // of the sum
  Outcome other = run(made.problem, second, options);
  const double mine = made.outcome.value, its = other.value;
  if (std::abs(mine - its) <= alike * std::max(std::abs(mine), std::abs(its))) {
    made.second_told = fmt::format("{} comes to the same sum", second.label());
  } else if (its < mine) {
    made.second_told = fmt::format("{} stopped at the sum {}, which is more", made.method, short_number(mine, 8));
    made.method = second.label();
    made.outcome = std::move(other);
  } else {
    made.second_told = fmt::format("{} stopped at the sum {}, which is more", second.label(), short_number(its, 8));
  }
}

} // namespace

Fit fit(const Problem& problem, const Method& by, const FitOptions& options) {
  constexpr Index most_rounds = 20;
  const auto* sum = dynamic_cast<const LossSum*>(problem.scalarization().get());
  if (sum == nullptr)
    throw ProblemError(fmt::format("{} is no fit: it has no residuals that are summed", problem.name()));
  const bool estimates = options.estimate_scale && sum->loss().kind != Loss::Kind::squares;
  // A scale that is not known yet is found from the absolute loss, whose answer outliers do not carry away.
  Fit made{.problem = problem};
  if (options.start)
    made.start = *options.start;
  else if (problem.start() && !options.starts)
    made.start = *problem.start();
  else
    made.start = searched_start(estimates ? with_loss(problem, {}) : problem, by, options, made.start_told);
  problem.check_start(made.start);
  RunOptions run_options = options.run;
  Vector from = made.start;
  Loss loss = sum->loss();
  if (estimates) {
    double spread = spread_of(problem, from);
    for (Index round = 0; round < most_rounds && spread > 0; ++round) {
      const Loss tried =
          round < 2 ? Loss{Loss::Kind::absolute, 0.1 * spread} : Loss{loss.kind, loss.usual_scale() * spread};
      RunOptions brief{.seed = options.run.seed, .start = Coordinates(from)};
      brief.trace = {.most_rows = 4};
      from = run(with_loss(problem, tried), by, brief).point;
      const double before = spread;
      spread = spread_of(problem, from);
      made.scale_rounds = round + 1;
      if (round >= 3 && std::abs(spread - before) <= 1e-6 * before) break;
    }
    if (spread > 0) loss.scale = loss.usual_scale() * spread;
    made.problem = with_loss(problem, loss);
  }
  run_options.start = Coordinates(from);
  made.outcome = run(made.problem, by, run_options);
  made.method = by.label();
  if (options.second && made.start_told.empty()) ask_second(made, *options.second, run_options);
  made.sum_before = sum_at(made.problem, *made.problem.bundle()->worker(), made.start);
  return made;
}

} // namespace tanzen
