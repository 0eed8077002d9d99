#pragma once

#include "tanzen/numeric/random.hpp"
#include "tanzen/problem/bounds.hpp"
#include "tanzen/search/settings.hpp"

#include <optional>

namespace tanzen::methods {

/// How children are made of parents, as settings: simulated binary crossover and polynomial mutation for variables with
/// bounds (Deb and Agrawal, 1995; Deb and Goyal, 1996).
struct VariationChoice {
  double crossover = 0.9;
  double crossover_index = 20;
  std::optional<double> mutation = {}; ///< unset: 1 / n
  double mutation_index = 20;

  void settings(Settings& list);
};

} // namespace tanzen::methods
