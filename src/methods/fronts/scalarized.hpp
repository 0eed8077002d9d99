#pragma once

#include "tanzen/methods/global/local_search.hpp"

#include "front_members.hpp"
#include "part_problem.hpp"

#include <functional>

namespace tanzen::methods {

/// Where the objectives lie, from the best point of each: what scalarizations count in.
struct FrontRange {
  Vector ideal;
  Vector width; ///< to the worst that one has at the best points of the others
  Matrix ends;  ///< the objectives there, a column a point

  [[nodiscard]] Vector scaled(const Vector& objectives) const { return (objectives - ideal).cwiseQuotient(width); }
};

/// One problem of a scalarization, with what tells how good a point that was found before is for it.
struct ScalarizedPart {
  PartProblem problem;
  std::function<double(const Vector& scaled)> merit;             ///< of objectives in parts of their range
  std::function<Vector(const Vector& scaled)> first_extras = {}; ///< what the variables more begin at
};

/// The search that all scalarizations share: the best point of each objective first, then a part for each choice, each
/// from the best of all points seen so far.
using PartOf = std::function<ScalarizedPart(const FrontRange& range, const Vector& choice)>;
/// `choices` are weights, directions or limits: a column each. Borrows the evaluator and `local`.
Search scalarized_search(Evaluator& evaluate, Start start, const LocalChoice& local, Matrix choices, PartOf part);

/// Rows of the objectives in parts of their range.
[[nodiscard]] Matrix scaling_rows(const FrontRange& range);

void add_scalarization(Settings& list, Index& points, LocalChoice& local, std::string_view meaning);
[[nodiscard]] MethodCard scalarization_card(std::string title, std::string source, std::string summary);

} // namespace tanzen::methods
