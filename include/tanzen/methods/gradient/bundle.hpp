#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Limited-memory bundle method (Haarala, Miettinen and Mäkelä, 2007, algorithm 3.1; the variable metric bundle of
/// Lukšan and Vlček, 1999, whose aggregation it takes over): gradients on the far side of a kink are gathered by null
/// steps until their aggregate points down along it. After a serious step the metric is the limited-memory BFGS matrix
/// of the last pairs; each null step lowers it by a correction of rank one, kept as a vector until the next serious
/// one. Lengths are in units of the region's width.
///
/// Cost of an iteration: one value and one gradient a trial, mostly one; some 10 * memory * n multiplications. Memory:
/// 3
/// * memory vectors.
struct Bundle {
  Index memory = 10;        ///< pairs of serious steps, and corrections of null steps
  double tolerance = 1e-12; ///< done when the decrease that the aggregate promises is below this, in sizes of the value

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
