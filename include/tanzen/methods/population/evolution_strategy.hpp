#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Evolution strategies before covariance matrices: the (1+1) strategy with the rule of one success in five
/// (Rechenberg, 1973; in the smooth form of Kern et al., 2004), and the (mu, lambda) strategy whose step
/// sizes, one for each variable, are inherited and mutated with the points (Schwefel, 1995; recombination and learning
/// rates of Beyer and Schwefel, 2002, section 4.3). Steps are scaled by the region; points outside the bounds are
/// mirrored at them.
///
/// Cost: 1 or `children` values an iteration. Memory: two populations of points and steps.
struct EvolutionStrategy {
  enum class Form { one_fifth, self_adaptive };

  Form form = Form::self_adaptive;
  std::optional<Index> parents = {};  ///< unset: a fourth of the children
  std::optional<Index> children = {}; ///< unset: 4 n, at least 28
  double sigma = 0.3;                 ///< first standard deviation, as a part of the region's width
  double collapse = 1e-12;            ///< done when steps are below this, relative to each variable's size

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
