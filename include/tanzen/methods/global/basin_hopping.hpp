#pragma once

#include "tanzen/methods/global/local_search.hpp"

#include <optional>

namespace tanzen::methods {

/// Basin hopping (Wales and Doye, 1997): moves every coordinate by a uniform random step, descends with a local method,
/// and accepts the minimum by the rule of Metropolis. The step is adapted every 20 hops so that about half are
/// accepted; every third hop takes a tenth of it. Steps are scaled by the region and mirrored at its ends where they
/// leave it.
///
/// Short hops among the long ones, by successes of 21 starts: ackley in 5 and 10 variables to 1e-6 within 10,000 values
/// 21 and 20 (with long hops alone 13 and 1), eggholder to 1e-3 within 20,000 19 (21; with short ones alone 4).
///
/// Cost: an iteration is one hop with its local search. Memory: the minima found.
struct BasinHopping {
  LocalChoice local;
  double step = 0.6;                      ///< largest first step, as a part of the region's width
  std::optional<double> temperature = {}; ///< unset: half the mean change of the value in the first 20 hops
  double acceptance = 0.5;                ///< part of the hops that should be accepted
  Index patience = 2000;                  ///< hops without a better minimum until it is done

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
