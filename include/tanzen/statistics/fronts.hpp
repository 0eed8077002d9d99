#pragma once

#include "tanzen/numeric/vector.hpp"

#include <utility>
#include <vector>

/// Several values at once, each to be minimized: a column a point, a row an objective.
namespace tanzen {

/// Whether `a` is at least as low in every objective and lower in one.
[[nodiscard]] bool dominates(Eigen::Ref<const Vector> a, Eigen::Ref<const Vector> b);

/// The rank of each point: 0 where none dominates it, 1 where none does once those are taken away, and so on (Deb,
/// Pratap, Agarwal and Meyarivan, 2002, section III.A). Equal points have equal ranks. Points are taken in
/// lexicographic order, and each finds its front among those there are by halving (Jensen, 2003; Zhang, Tian, Cheng and
/// Jin, 2015). Cost: n log n in two objectives, n log^2 n and what it takes to keep the fronts in order in three, at
/// most n^2 comparisons in more.
[[nodiscard]] std::vector<int> nondominated_ranks(const Matrix& points);

/// The points that no other one dominates, in their order; of equal ones the first.
[[nodiscard]] std::vector<Index> nondominated_points(const Matrix& points);

/// The volume that the points cover towards a reference, exactly (Zitzler and Thiele, 1998): by a sweep along one
/// objective in two and three, by what each point alone adds to those after it in more (While, Bradstreet and Barone,
/// 2012). Points that do not lie below the reference in every objective cover nothing. Cost: n log n in two objectives,
/// n^2 at most in three; in more exponential in their number: a thousand points in six take seconds.
[[nodiscard]] double hypervolume(const Matrix& points, const Vector& reference);

/// The area that points of a plane cover, as they come: each by how far it reaches to the right and up from a corner.
/// Cost: a search among the steps there are for each point, and what it takes to keep them in order.
class CoveredArea {
 public:
  /// A point that reaches `x` and `y` above 0.
  void add(double x, double y);
  [[nodiscard]] double area() const { return area_; }

 private:
  std::vector<std::pair<double, double>> steps_; ///< by rising x, and so by falling y
  double area_ = 0;
};

/// What each point alone covers towards a reference: by how much the hypervolume falls where it is left out. 0 for a
/// point that another one dominates, or is equal to. Cost: n log n in two objectives, where neighbours limit it (Beume,
/// Naujoks and Emmerich, 2007); in more, n^2 comparisons, and for each point a hypervolume of the few that limit it.
[[nodiscard]] Vector hypervolume_contributions(const Matrix& points, const Vector& reference);

/// At most `most` of the points, spread over all: those with the least value of each objective first, then again and
/// again the one that is farthest from those chosen, in units of the points' own ranges (Gonzalez, 1985). In their
/// order. Cost: `most` distances a point.
[[nodiscard]] std::vector<Index> spread_points(const Matrix& points, Index most);

/// How far the points of a reference front are from what the points dominate, on average (inverted generational
/// distance plus; Ishibuchi, Masuda, Tanigaki and Nojima, 2015, equation 16). Requires points in both. Cost: one
/// distance a pair.
[[nodiscard]] double inverted_distance_plus(const Matrix& points, const Matrix& reference_front);

/// By how much all points must be lowered to dominate a reference front (Zitzler et al., 2003, equation 4, additive).
/// Negative where they lie below it. Requires points in both. Cost: one comparison a pair.
[[nodiscard]] double additive_epsilon(const Matrix& points, const Matrix& reference_front);

/// The surface that at least `count` of several fronts of two objectives attain (Fonseca and Fleming, 1996): the lowest
/// points such that so many of the fronts have a point at least as low in both; by the first objective. With half of
/// them it is the median front. Requires 1 <= count <= the number of fronts. Cost: a sort of all points, and of the
/// fronts at each.
[[nodiscard]] Matrix attainment_surface(const std::vector<Matrix>& fronts, Index count);

/// How unevenly the points lie: the mean deviation of the distances to the nearest other one from their mean, in parts
/// of it (Schott, 1995, in the form of Deb et al., 2002, equation 1, without the extremes of a true front): 0 where all
/// are alike. In units of the points' own ranges; NaN of fewer than three points. Cost: one distance a pair.
[[nodiscard]] double unevenness(const Matrix& points);

} // namespace tanzen
