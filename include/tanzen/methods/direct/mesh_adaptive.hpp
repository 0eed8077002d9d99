#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Mesh adaptive direct search with orthogonal directions (Audet and Dennis, 2006, algorithm; directions by a
/// Householder reflection of a random vector, after Abramson, Audet, Dennis and Le Digabel, 2009): polls points on a
/// mesh around the best one, in directions that in the course of the search come to be dense, so that it also leaves
/// kinks. A success makes the frame twice as wide, a failure half as wide, and the mesh much finer. A poll has n + 1
/// directions (Audet, Ianni, Le Digabel and Tribes, 2014): of each pair of the 2 n the one on the side that promises
/// more, and the opposite of their sum. Quadratic models of the points visited about the best one, in up to 50
/// variables and without constraints, propose a point first and order the poll (Conn and Le Digabel, 2013); without
/// one, points are taken in the order of their angle to the last success. Steps are scaled by the region; points
/// outside the bounds are moved onto them. Inequalities are kept by a progressive barrier (Audet and Dennis, 2009):
/// polls go around the best feasible point and the lowest of those whose violation is below a threshold that only
/// falls.
///
/// Cost: up to n + 2 values an iteration (2 n + 1 with all directions), under constraints two more; a better one ends
/// the poll. Memory: the points that models may be of, some 500 vectors at most.
struct MeshAdaptive {
  enum class Directions { fewest, all };

  double step = 0.1; ///< first frame, as a part of the region's width
  Directions directions = Directions::fewest;
  bool models = true;
  double collapse = 1e-10; ///< the frame has shrunk to nothing when it is below this
  /// Times that it must, one after the other without a better point, before the search is done. Directions that lead
  /// out of a kink can be few: one shrinking of the frame tries some 30 n of them.
  Index patience = 3;

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
