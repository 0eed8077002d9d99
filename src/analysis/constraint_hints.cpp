#include "constraint_hints.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/numeric/factors.hpp"
#include "tanzen/numeric/sampling.hpp"
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
  const double tolerance = 1e-2 * rows.outcome.violation;
  std::vector<Vector> normals;
  std::vector<std::pair<Index, std::string>> names; // with their places among rows, then bounds
  const auto add = [&](Index k, bool is_high) {
    normals.emplace_back(is_high ? Vector(rows.gradients.row(k)) : Vector(-rows.gradients.row(k)));
    names.emplace_back(k, rows[k].name);
  };
  Vector mending = Vector::Zero(n); // against which all that are broken push
  for (Index k = 0; k < rows.size(); ++k) {
    const ConstraintState& row = rows[k];
    const bool is_broken = row.slack < -tolerance;
    if (!is_broken && (!row.active || row.lower == row.upper)) continue;
    add(k, row.value - row.upper > row.lower - row.value);
    if (is_broken) mending += normals.back();
  }
  // An equality that is kept holds on both sides: on the one that counts.
  for (Index k = 0; k < rows.size(); ++k)
    if (rows[k].lower == rows[k].upper && !(rows[k].slack < -tolerance)) add(k, rows.gradients.row(k).dot(mending) < 0);
  for (Index i = 0; i < n; ++i) {
    const Bounds& bounds = rows.problem.bounds();
    const double near = 1e-6 * (1 + std::abs(rows.outcome.point[i]));
    const bool at_lower = rows.outcome.point[i] <= bounds.lower()[i] + near;
    if (!at_lower && !(rows.outcome.point[i] >= bounds.upper()[i] - near)) continue;
    normals.emplace_back((at_lower ? -1.0 : 1.0) * Vector::Unit(n, i));
    names.emplace_back(rows.size() + i, "the bound of " + rows.outcome.variable_names[static_cast<std::size_t>(i)]);
  }
  if (normals.empty()) return std::nullopt;
  const auto count = static_cast<Index>(normals.size());
  Matrix columns(n, count);
  for (Index k = 0; k < count; ++k) columns.col(k) = normals[static_cast<std::size_t>(k)];
  const Vector weights = shortest_hull_weights(columns);
  constexpr double balanced = 0.1, counts = 1e-2;
  if ((weights.array() > counts * weights.maxCoeff()).count() < 2) return std::nullopt;
  if (!((columns * weights).norm() <= balanced * columns.colwise().norm().maxCoeff())) return std::nullopt;
  std::vector<std::pair<Index, std::string>> in_conflict;
  for (Index k = 0; k < count; ++k)
    if (weights[k] > counts * weights.maxCoeff()) in_conflict.push_back(names[static_cast<std::size_t>(k)]);
  std::ranges::sort(in_conflict);
  std::vector<std::string> named;
  for (const auto& [place, name] : in_conflict) named.push_back(name);
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

Hint overdetermined(const Rows& rows) {
  const auto equalities = std::ranges::count_if(rows.problem.constraints(), &Constraint::is_equality);
  if (rows.outcome.feasible || equalities <= rows.problem.dimension()) return std::nullopt;
  return fmt::format("{} for {}: in general no point keeps more of them than there are variables",
                     counted(equalities, "equality constraint"), counted(rows.problem.dimension(), "variable"));
}

bool has_one_side(const Constraint& row) {
  return std::isinf(row.lower) != std::isinf(row.upper);
}

/// No point was found that keeps all, and the start would keep them with one row's sign turned.
Hint turned_at_start(const Rows& rows) {
  if (rows.outcome.feasible || rows.problem.bounds().violation(rows.outcome.start) > 0) return std::nullopt;
  const Vector values = rows.problem.constraint_values(rows.outcome.start);
  std::optional<Index> broken;
  for (Index k = 0; k < values.size(); ++k) {
    if (rows.problem.constraints()[static_cast<std::size_t>(k)].violation(values[k]) == 0) continue;
    if (broken) return std::nullopt;
    broken = k;
  }
  if (!broken || !has_one_side(rows.problem.constraints()[static_cast<std::size_t>(*broken)])) return std::nullopt;
  return fmt::format("the start keeps all but {}, and no point was found that keeps it too: is {} the wrong way round?",
                     rows[*broken].name, rows[*broken].name);
}

/// The value falls without end while a row is kept ever more easily.
Hint turned_and_unbounded(const Rows& rows) {
  constexpr double far = 1e8;
  const Outcome& outcome = rows.outcome;
  const double fall = sign_of(outcome.sense) * (outcome.start_value - outcome.value);
  if (outcome.converged() || !(fall > far * (1 + std::abs(outcome.start_value)))) return std::nullopt;
  const Vector before = rows.problem.constraint_values(outcome.start);
  for (Index k = 0; k < rows.size(); ++k) {
    const Constraint& row = rows.problem.constraints()[static_cast<std::size_t>(k)];
    const double limit = std::isinf(row.lower) ? row.upper : row.lower;
    if (has_one_side(row) && rows[k].slack > far * (1 + std::abs(before[k] - limit)))
      return fmt::format("the value {} without end while {} is kept ever more easily: is it the wrong way round?",
                         outcome.sense == Sense::minimize ? "falls" : "rises", rows[k].name);
  }
  return std::nullopt;
}

/// Every variable sits on a bound, and the constraint that was to hold the answer is nowhere near its limit.
Hint turned_at_bounds(const Rows& rows) {
  const Bounds& bounds = rows.problem.bounds();
  if (!rows.outcome.converged()) return std::nullopt;
  for (Index i = 0; i < rows.outcome.point.size(); ++i) {
    const double x = rows.outcome.point[i], near = 1e-6 * (1 + std::abs(x));
    if (x > bounds.lower()[i] + near && x < bounds.upper()[i] - near) return std::nullopt;
  }
  for (Index k = 0; k < rows.size(); ++k) {
    const Constraint& row = rows.problem.constraints()[static_cast<std::size_t>(k)];
    const double limit = std::isinf(row.lower) ? row.upper : row.lower;
    if (rows[k].active) return std::nullopt;
    if (has_one_side(row) && limit != 0 && rows[k].slack > 0.5 * std::abs(limit))
      return fmt::format("bounds alone hold this point, and {} is far from its limit: if it was to hold it, it is the "
                         "wrong way round",
                         rows[k].name);
  }
  return std::nullopt;
}

/// Inequalities that no point of a sample of the region breaks that keeps the others: they may be left away there.
Hint implied(const Rows& rows) {
  constexpr Index sampled = 2000, enough = 100;
  constexpr double most_work = 2e4;
  const Problem& problem = rows.problem;
  const double work = static_cast<double>(rows.size()) * static_cast<double>(problem.dimension());
  if (!rows.outcome.converged() || rows.gradients.size() == 0 || work > most_work) return std::nullopt;
  const Matrix points = latin_hypercube_points(problem.sampling_box(), sampled, RandomStream(1, {"implied"}));
  Matrix parts;
  problem.bundle()->worker()->outputs(points, parts);
  const auto values = parts.middleRows(problem.parts().objectives, rows.size());
  std::vector<Index> keeping(static_cast<std::size_t>(rows.size()), 0);
  std::vector<char> is_needed(static_cast<std::size_t>(rows.size()), 0);
  for (Index p = 0; p < sampled; ++p) {
    Index broken = 0, last = 0;
    for (Index k = 0; k < rows.size(); ++k) {
      const Constraint& row = problem.constraints()[static_cast<std::size_t>(k)];
      if (row.is_equality() || row.violation(values(k, p)) == 0) continue;
      ++broken;
      last = k;
    }
    if (broken == 0)
      for (Index& count : keeping) ++count;
    if (broken == 1) is_needed[static_cast<std::size_t>(last)] = 1;
  }
  for (Index k = 0; k < rows.size(); ++k) {
    const auto place = static_cast<std::size_t>(k);
    if (problem.constraints()[place].is_equality() || rows[k].active || is_needed[place] != 0) continue;
    if (keeping[place] < enough) continue;
    if (rows.size() == 1)
      return fmt::format("{} holds at all {} points looked at in the region{}: it restricts nothing there",
                         rows[k].name, sampled, problem.has_region() ? "" : " around the start");
    return fmt::format("{} holds at all {} points of the region, of {} looked at, that keep the other inequalities: it "
                       "may follow from them",
                       rows[k].name, keeping[place], sampled);
  }
  return std::nullopt;
}

} // namespace

std::vector<std::string> constraint_hints(const Problem& problem, const Outcome& outcome) {
  std::vector<std::string> hints;
  if (outcome.checked.constraints.empty() || outcome.checked.constraints.size() != problem.constraints().size())
    return hints;
  const Rows rows(problem, outcome);
  for (const auto test : {overdetermined, hopeless_row, conflict, turned_at_start, turned_and_unbounded,
                          turned_at_bounds, broken_start, dependent, growing_multipliers, uneven_rows, implied}) {
    if (auto hint = test(rows)) hints.push_back(std::move(*hint));
  }
  return hints;
}

} // namespace tanzen
