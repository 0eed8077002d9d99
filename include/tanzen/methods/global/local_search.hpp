#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <string>

namespace tanzen::methods {

/// Which local method a global one uses, as a setting: any method of the catalogue, with its own settings where they
/// are put in parentheses.
struct LocalChoice {
  std::string local; ///< unset: lbfgs-bounded where the objective has exact gradients, otherwise quadratic-model

  MethodSourcePointer methods; ///< where it is found: the catalogue of the method around it

  void settings(Settings& list);
  [[nodiscard]] Method chosen(const Evaluator& evaluate) const;
};

/// A local method inside another one: runs it from a point to where it settles, on a view of the whole run.
class LocalSearch {
 public:
  /// Throws ProblemError where the method cannot handle the problem, but for what the outer one takes care of.
  LocalSearch(Evaluator& evaluate, const LocalChoice& choice, const TakenCareOf& taken = {});

  struct Result {
    double value = 0;
    std::int64_t evaluations = 0;
    std::int64_t iterations = 0;
    bool settled = false; ///< it ended by itself; `point` is a local minimum as far as the method can tell
  };

  /// From `point`, which has been evaluated, to where the method ends, the gradient is below 1e-6, or the values agree
  /// to 1e-11 for 2 n + 5 iterations; `point` is then the best of it. Ends without a minimum after 2,000 iterations.
  Result improve(Vector& point, double value, const RandomStream& random);
  /// The same by other rules.
  Result improve(Vector& point, double value, const RandomStream& random, const StopRules& rules);

 private:
  Evaluator& evaluate_;
  Method method_;
};

} // namespace tanzen::methods
