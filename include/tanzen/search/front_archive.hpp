#pragma once

#include "tanzen/problem/evaluation.hpp"
#include "tanzen/problem/problem.hpp"
#include "tanzen/statistics/fronts.hpp"
#include "tanzen/statistics/point_tree.hpp"

#include <cstddef>
#include <limits>
#include <optional>
#include <vector>

namespace tanzen {

/// A nondominated point of several objectives.
struct FrontPoint {
  Vector point = {};
  Vector objectives = {}; ///< inside a run to be minimized; in an outcome each in its own sense
};

/// What is measured up to where the front of a problem is looked at, objectives to be minimized: a tenth of its range
/// beyond the nadir of the true front; where that is not known, the highest of 101 points of the region that are keyed
/// by the problem alone, so that all runs on it are measured alike. None where the objectives are only called and the
/// front is not known: a look at them may be dear. Cost: 101 values at most, which count nowhere.
struct FrontBox {
  Vector lower = {}; ///< nothing below is measured: the ideal point, or half the range below the lowest of the points
  Vector reference = {};

  [[nodiscard]] static std::optional<FrontBox> of(const Problem& problem);
};

/// The nondominated points of a run as they come, and what they cover towards the reference of the problem.
///
/// Of two objectives the area is exact. Of three the share of 65,536 Sobol points (Sobol, 1967) of the box counts, of
/// more that of 16,384, alike for all runs: it is off by a thousandth of the volume or less, and by one in 200 of more.
/// Where the true front is known, what it covers is 1, and no more can be covered. Cost of a point: a search among
/// those there are, in more than two objectives by boxes (`PointTree`).
class FrontArchive {
 public:
  explicit FrontArchive(const Problem& problem);

  /// Takes a point unless one that is there covers it, and drops those that it dominates. False where it was not taken.
  bool add(const Vector& x, VectorView objectives);

  /// Of two objectives by the first.
  [[nodiscard]] const std::vector<FrontPoint>& points() const { return points_; }
  /// NaN where nothing is measured.
  [[nodiscard]] double covered() const;

 private:
  bool add_to_plane(const Vector& x, VectorView objectives);
  bool add_to_space(const Vector& x, VectorView objectives);
  void measure_with(const Problem& problem, const FrontBox& box);
  void drop(std::vector<std::size_t>& born);
  void cover(VectorView objectives);

  std::vector<FrontPoint> points_;
  std::vector<std::size_t> born_; ///< of more than two objectives: when each of the points came
  std::size_t next_born_ = 0;
  PointTree tree_; ///< of more than two objectives: the same points, by when they came
  std::optional<FrontBox> box_;
  CoveredArea area_;
  PointTree open_;                   ///< sample points that are not covered
  std::vector<std::size_t> dropped_; ///< work space
  bool is_known_ = false;            ///< the true front, of two objectives
  double unit_ = 1;                  ///< what an area of 1, or a sample point, counts
  std::size_t samples_ = 0;
};

} // namespace tanzen
