#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Mesh adaptive direct search with orthogonal directions (Audet and Dennis, 2006, algorithm; directions by a
/// Householder reflection of a random vector, after Abramson, Audet, Dennis and Le Digabel, 2009): polls 2 n
/// points on a mesh around the best one, in directions that in the course of the search come to be dense, so that it
/// also leaves kinks. A success makes the frame twice as wide, a failure half as wide, and the mesh much finer. The
/// points of a poll are taken in the order of their angle to the last success. Steps are scaled by the region; points
/// outside the bounds are moved onto them. Inequalities are kept by a progressive barrier (Audet and Dennis, 2009):
/// polls go around the best feasible point and the lowest of those whose violation is below a threshold that only
/// falls.
///
/// Cost: up to 2 n values an iteration, under constraints two more; a better one ends the poll. Memory: one matrix n by
/// n.
struct MeshAdaptive {
  double step = 0.1;       ///< first frame, as a part of the region's width
  double collapse = 1e-10; ///< done when the frame is below this

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
