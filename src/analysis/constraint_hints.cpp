#include "constraint_hints.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/numeric/factors.hpp"
#include "tanzen/numeric/signed_least_squares.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

namespace tanzen {
namespace {

using Hint = std::optional<std::string>;

/// What the tests look at: the rows at the reported point, with their gradients where there are any.
struct Rows {
  const Problem& problem;
  const Outcome& outcome;
  const std::vector<ConstraintState>& states;
  Matrix gradients; ///< a row each; empty without derivatives

  Rows(const Problem& of, const Outcome& end) : problem(of), outcome(end), states(end.checked.constraints) {
    if (problem.bundle()->derivatives() == Derivatives::none) return;
    Matrix all;
    problem.bundle()->worker()->jacobian(outcome.point, all);
    gradients = all.middleRows(problem.parts().objectives, problem.parts().constraints);
    if (!gradients.allFinite()) gradients.resize(0, 0);
  }
  [[nodiscard]] Index size() const { return static_cast<Index>(states.size()); }
  [[nodiscard]] const ConstraintState& operator[](Index k) const { return states[static_cast<std::size_t>(k)]; }
};

/// `a`, `a and b`, `a, b and c`.
std::string listed(std::vector<std::string> names) {
  if (names.size() < 2) return joined(names, ", ");
  const std::string last = names.back();
  names.pop_back();
  return joined(names, ", ") + " and " + last;
}

Hint broken_start(const Rows& rows) {
  // Where no point keeps them, no other start helps.
  if (rows.outcome.converged() || rows.outcome.status == Status::infeasible) return std::nullopt;
  const Vector values = rows.problem.constraint_values(rows.outcome.start);
  Index worst = -1;
  double most = 0;
  for (Index k = 0; k < values.size(); ++k) {
    const double broken = rows.problem.constraints()[static_cast<std::size_t>(k)].violation(values[k]);
    if (!(broken > most)) continue;
    most = broken;
    worst = k;
  }
  if (worst < 0) return std::nullopt;
  return fmt::format("the start breaks {} by {}: begin where the constraints hold, if you know such a point",
                     rows[worst].name, short_number(most, 3));
}

/// Limits whose normals, each turned against what it asks for, have a sum of zero with weights that are not negative:
/// to first order none of them can be broken less without another one being broken more (Farkas).
Hint conflict(const Rows& rows) {
  if (rows.outcome.feasible || rows.gradients.size() == 0) return std::nullopt;
  const Index n = rows.outcome.point.size();
  std::vector<Vector> normals;
  std::vector<std::string> names;
  for (Index k = 0; k < rows.size(); ++k) {
    const ConstraintState& row = rows[k];
    if (!row.active && !(row.slack < 0)) continue;
    const bool is_high = row.value - row.upper > row.lower - row.value;
    normals.emplace_back(is_high ? Vector(rows.gradients.row(k)) : Vector(-rows.gradients.row(k)));
    names.push_back(row.name);
  }
  for (Index i = 0; i < n; ++i) {
    const Bounds& bounds = rows.problem.bounds();
    const double near = 1e-6 * (1 + std::abs(rows.outcome.point[i]));
    const bool at_lower = rows.outcome.point[i] <= bounds.lower()[i] + near;
    if (!at_lower && !(rows.outcome.point[i] >= bounds.upper()[i] - near)) continue;
    normals.emplace_back((at_lower ? -1.0 : 1.0) * Vector::Unit(n, i));
    names.push_back("the bound of " + rows.outcome.variable_names[static_cast<std::size_t>(i)]);
  }
  if (normals.empty()) return std::nullopt;
  const auto count = static_cast<Index>(normals.size());
  Matrix columns(n, count);
  for (Index k = 0; k < count; ++k) columns.col(k) = normals[static_cast<std::size_t>(k)];
  const Vector weights = shortest_hull_weights(columns);
  constexpr double balanced = 0.1, counts = 1e-2;
  if ((weights.array() > counts * weights.maxCoeff()).count() < 2) return std::nullopt;
  if (!((columns * weights).norm() <= balanced * columns.colwise().norm().maxCoeff())) return std::nullopt;
  std::vector<std::string> named;
  for (Index k = 0; k < count; ++k)
    if (weights[k] > counts * weights.maxCoeff()) named.push_back(names[static_cast<std::size_t>(k)]);
  return fmt::format("{} cannot be kept together near this point: to break one less breaks another more",
                     listed(named));
}

/// A broken row that is flat here: nothing near breaks it less.
Hint hopeless_row(const Rows& rows) {
  constexpr double flat = 5e-2;
  if (rows.outcome.feasible || rows.gradients.size() == 0) return std::nullopt;
  const Vector sizes = 1 + rows.outcome.point.array().abs();
  for (Index k = 0; k < rows.size(); ++k) {
    if (!(-rows[k].slack > rows.outcome.violation / 2)) continue;
    const double slope = rows.gradients.row(k).transpose().cwiseProduct(sizes).norm();
    if (slope <= flat * -rows[k].slack)
      return fmt::format("{} cannot be kept near this point: it is broken by {}, and nothing beside it breaks it less",
                         rows[k].name, short_number(-rows[k].slack, 3));
  }
  return std::nullopt;
}

Hint dependent(const Rows& rows) {
  if (!rows.outcome.feasible || rows.gradients.size() == 0) return std::nullopt;
  const Index n = rows.outcome.point.size();
  std::vector<Index> active;
  std::vector<std::string> names;
  for (Index k = 0; k < rows.size(); ++k) {
    if (!rows[k].active) continue;
    active.push_back(k);
    names.push_back(rows[k].name);
  }
  if (active.empty()) return std::nullopt;
  const Matrix columns = rows.gradients(active, Eigen::all).transpose();
  if (n - orthogonal_basis(columns).cols() == columns.cols()) return std::nullopt;
  return fmt::format("the gradients of {} are dependent at this point: their multipliers are not the only ones that "
                     "balance the objective, so do not read them as worths",
                     listed(names));
}

Hint growing_multipliers(const Rows& rows) {
  constexpr double huge = 1e8;
  if (rows.outcome.converged() || !rows.outcome.trace.has_column("multiplier_norm")) return std::nullopt;
  std::vector<double> norms = rows.outcome.trace.column("multiplier_norm");
  std::erase_if(norms, [](double norm) { return std::isnan(norm); });
  if (norms.size() < 3 || !(norms.back() > huge) || !(norms.back() >= norms[norms.size() / 2])) return std::nullopt;
  return fmt::format("the multipliers grew to {}: near this point no finite ones balance the objective, as where "
                     "constraints touch or contradict each other",
                     short_number(norms.back(), 2));
}

Hint uneven_rows(const Rows& rows) {
  constexpr double uneven = 1e6;
  if (rows.outcome.converged() || rows.gradients.rows() < 2) return std::nullopt;
  const Vector sizes = rows.gradients.rowwise().norm();
  Index steep = 0, flat = 0;
  const double most = sizes.maxCoeff(&steep), least = sizes.minCoeff(&flat);
  if (!(least > 0) || !(most > uneven * least)) return std::nullopt;
  return fmt::format("{} is {} times as steep as {}: write them in units in which they count alike", rows[steep].name,
                     short_number(most / least, 2), rows[flat].name);
}

} // namespace

std::vector<std::string> constraint_hints(const Problem& problem, const Outcome& outcome) {
  std::vector<std::string> hints;
  if (outcome.checked.constraints.empty() || outcome.checked.constraints.size() != problem.constraints().size())
    return hints;
  const Rows rows(problem, outcome);
  for (const auto test : {hopeless_row, conflict, broken_start, dependent, growing_multipliers, uneven_rows}) {
    if (auto hint = test(rows)) hints.push_back(std::move(*hint));
  }
  return hints;
}

} // namespace tanzen
