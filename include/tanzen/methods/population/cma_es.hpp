#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// The evolution strategy with covariance matrix adaptation. `full` and `active` after Hansen (2016, "The CMA evolution
/// strategy: a tutorial", figure 6 and table 1, with negative weights where active); `separable`, a diagonal matrix,
/// after Ros and Hansen (2008); `limited`, a product of few directions in place of a matrix, after Loshchilov,
/// Glasmachers and Beyer (2018, algorithm 1). Restarts with the population doubled (Auger and Hansen, 2005) or in two
/// regimes, large and small, that share the budget (Hansen, 2009). Steps are scaled by the region along each variable;
/// points outside the bounds are mirrored at them, so that the function is one on all of space. Under constraints
/// points are ranked by an augmented Lagrangian that follows the mean (Atamna, Auger and Hansen, 2016), where it then
/// stands; where it settles at broken constraints it goes again from there with larger penalties, up to eight times.
///
/// Cost: `population` values an iteration, times as many as noise asks for where it `reevaluates`, and under
/// constraints one more at the mean. Memory: two matrices n by n (full), none (separable), 4 + 3 ln n vectors
/// (limited), and three populations.
struct CmaEs {
  enum class Form { full, separable, limited };
  enum class Restarts { none, increasing, two_regimes };

  Form form = Form::full;
  bool active = true; ///< the worst steps count against their directions; not in the limited form
  Restarts restarts = Restarts::none;
  std::optional<Index> population = {}; ///< unset: 4 + 3 ln n
  double sigma = 0.3;                   ///< first standard deviation, as a part of the region's width
  bool reevaluates = false; ///< some members are evaluated twice; where their ranks differ too much, all are evaluated
                            ///< more often and averaged, and the steps grow (Hansen et al., 2009, algorithms 1 and 2)
  double collapse = 1e-12;  ///< a start is done when sigma makes steps below this, relative to each variable's size

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
