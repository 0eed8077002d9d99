#pragma once

#include "tanzen/methods/global/local_search.hpp"

#include <optional>

namespace tanzen::methods {

/// Generalized simulated annealing (Tsallis and Stariolo, 1996): steps from a visiting distribution with heavy tails
/// (sampled exactly as a multivariate t distribution; Schanze, 2006), acceptance by a generalized rule, and a visiting
/// temperature that falls fast (equation 14). After a level that found a better point, a local method refines it
/// (Xiang, Sun, Fan and Gong, 1997). Steps are scaled by the region and mirrored at its ends.
///
/// Cost: 2 n values an iteration, which is one level, and the local searches. Memory: 4 vectors.
struct GeneralizedAnnealing {
  LocalChoice local;
  double visiting = 2.62; ///< q of the visiting distribution, above 1 (normal) and below 3
  double accepting = -5;  ///< q of the acceptance; the lower, the greedier
  double heat = 1;        ///< first visiting temperature: about one region's width
  std::optional<double> temperature =
      {};                ///< first accepting temperature; unset: the spread of the values of random points
  double reheat = 1e-4;  ///< part of the first temperature at which it begins anew
  Index patience = 5000; ///< levels without a better point until it is done

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
