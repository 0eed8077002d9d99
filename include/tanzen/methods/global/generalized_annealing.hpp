#pragma once

#include "tanzen/methods/global/local_search.hpp"

#include <optional>

namespace tanzen::methods {

/// Generalized simulated annealing (Tsallis and Stariolo, 1996): steps from a visiting distribution with heavy tails
/// (sampled exactly as a multivariate t distribution; Schanze, 2006), acceptance by a generalized rule, and a visiting
/// temperature that falls fast (equation 14). After a level that found a better point, a local method refines it
/// (Xiang, Sun, Fan and Gong, 1997). Steps are scaled by the region and mirrored at its ends.
///
/// Reheating at a tenth, and an acceptance of -4, against 1e-4 and -5: eggholder to 1e-3 within 10,000 values from 29
/// of 42 starts (4), rastrigin:dim=5 to 1e-6 from 21 of 21 (7), schwefel:dim=5 from 21 (14).
///
/// Cost: 2 n values an iteration, which is one level, and the local searches. Memory: 4 vectors.
struct GeneralizedAnnealing {
  LocalChoice local;
  double visiting = 2.62; ///< q of the visiting distribution, above 1 (normal) and below 3
  double accepting = -4;  ///< q of the acceptance; the lower, the greedier
  double heat = 1;        ///< first visiting temperature: about one region's width
  std::optional<double> temperature =
      {};                ///< first accepting temperature; unset: the spread of the values of random points
  double reheat = 0.1;   ///< part of the first temperature at which it begins anew
  Index patience = 5000; ///< levels without a better point until it is done

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
