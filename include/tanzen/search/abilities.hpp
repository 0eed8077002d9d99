#pragma once

#include "tanzen/problem/problem.hpp"

#include <limits>
#include <optional>
#include <string>

namespace tanzen {

class Method;

/// What a method can handle, and what it needs. The default is a method for one smooth or opaque objective without any
/// limits.
struct Abilities {
  bool bounds = false; ///< keeps within bounds at every evaluation
  bool equalities = false;
  bool inequalities = false;
  bool residuals = false; ///< needs a sum of squares, or of another loss, of known residuals
  bool fronts = false;    ///< needs several objectives; without it a method needs one
  bool formula = false;   ///< needs the expression of its objective, and a region with ends
  Index most_variables = std::numeric_limits<Index>::max();
  Derivatives exact = Derivatives::none; ///< derivatives that it needs and differences cannot stand in for
};

/// What a method around another one takes care of: the inner one need not.
struct TakenCareOf {
  bool constraints = false;
  bool objectives = false; ///< several become one number
};

/// Why a method cannot work on a problem, in a sentence that ends with the methods of its catalogue that can; nothing
/// where it can. The one answer for `run`, campaigns, inner methods and the command line.
[[nodiscard]] std::optional<std::string> why_not(const Method& method, const Problem& problem,
                                                 const TakenCareOf& taken = {});

/// Throws ProblemError with that sentence.
void check_able(const Method& method, const Problem& problem, const TakenCareOf& taken = {});

} // namespace tanzen
