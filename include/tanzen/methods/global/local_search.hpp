#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"
#include "tanzen/search/standing.hpp"

#include <cstdint>
#include <string>

namespace tanzen::methods {

/// Which local method a global one uses, as a setting: any method of the catalogue, with its own settings where they
/// are put in parentheses.
struct LocalChoice {
  /// Unset: with exact gradients lbfgs-bounded, or sequential-quadratic where there are constraints to keep; without
  /// them quadratic-model, or linear-model.
  std::string local = {};

  MethodSourcePointer methods; ///< where it is found: the catalogue of the method around it

  void settings(Settings& list);
  [[nodiscard]] Method chosen(const Evaluator& evaluate, const TakenCareOf& taken) const;
};

/// A local method inside another one: runs it from a point to where it settles, on a view of the whole run.
class LocalSearch {
 public:
  /// Throws ProblemError where the method cannot handle the problem, but for what the outer one takes care of.
  LocalSearch(Evaluator& evaluate, const LocalChoice& choice, const TakenCareOf& taken = {});

  struct Result {
    Standing standing; ///< its value is the view's
    std::int64_t evaluations = 0;
    std::int64_t iterations = 0;
    bool settled = false; ///< it ended by itself; `point` is a local minimum as far as the method can tell
  };

  /// From `point`, which has been evaluated and stands there, to where the method ends, the relative gradient is below
  /// 1e-8, or the values agree to 1e-11 for 2 n + 5 iterations; `point` is then the best of it. Ends without a minimum
  /// after 2,000 iterations.
  Result improve(Vector& point, const Standing& standing, const RandomStream& random);
  /// The same by other rules.
  Result improve(Vector& point, const Standing& standing, const RandomStream& random, const StopRules& rules);
  /// Whether one ranks before the other: by value alone where the outer method takes care of constraints.
  [[nodiscard]] bool is_better(const Standing& one, const Standing& other) const {
    return one.is_better_than(other, level_);
  }

 private:
  [[nodiscard]] double violation_at(const Iteration& now) const;

  Evaluator& evaluate_;
  Method method_;
  double level_;
};

} // namespace tanzen::methods
