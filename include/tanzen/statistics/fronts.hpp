#pragma once

#include "tanzen/numeric/vector.hpp"

#include <vector>

/// Several values at once, each to be minimized: a column a point, a row an objective.
namespace tanzen {

/// Whether `a` is at least as low in every objective and lower in one.
[[nodiscard]] bool dominates(Eigen::Ref<const Vector> a, Eigen::Ref<const Vector> b);

/// The rank of each point: 0 where none dominates it, 1 where none does once those are taken away, and so on (Deb,
/// Pratap, Agarwal and Meyarivan, 2002, section III.A). Equal points have equal ranks. Cost: n^2 comparisons.
[[nodiscard]] std::vector<int> nondominated_ranks(const Matrix& points);

/// The volume that the points cover towards a reference, exactly (Zitzler and Thiele, 1998): by one sweep in two
/// objectives, by slices along the last one in more. Points that do not lie below the reference in every objective
/// cover nothing. Cost: n log n in two objectives, n times that for each one more.
[[nodiscard]] double hypervolume(const Matrix& points, const Vector& reference);

} // namespace tanzen
