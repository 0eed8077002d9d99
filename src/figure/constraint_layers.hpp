#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/problem/problem.hpp"
#include "tanzen/search/outcome.hpp"

/// What figures show of constraints.
namespace tanzen {

/// What is infeasible in the plane of two variables through a point veiled, and the edge of each constraint with its
/// name, away from the known minima and from the points of `avoid`. Cost: constraint values on 300 squared points.
/// Nothing without constraints.
void add_constraints(Panel& panel, const Problem& problem, const Vector& through, Index first, Index second,
                     const Box& plane, const std::vector<Vector>& avoid = {});

/// At an answer of two variables on active constraints: where the objective gets better, and what each constraint holds
/// against it, its gradient times its multiplier. At a minimum under constraints the arrows add up to nothing.
void add_balance(Panel& panel, const Problem& problem, const Outcome& outcome, const Box& box);

} // namespace tanzen
