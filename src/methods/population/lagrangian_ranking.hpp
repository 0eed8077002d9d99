#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/standing.hpp"

#include "../constrained/multipliers.hpp"

namespace tanzen::methods {

/// Ranks points by an augmented Lagrangian whose multipliers and penalties, one a row, follow the mean of a strategy
/// (Atamna, Auger and Hansen, 2016, for one linear row; 2017, algorithm 2, for several): so a strategy that knows
/// nothing of constraints converges linearly to an answer on their edge.
///
/// The penalties begin so that a row's spread over the first points weighs ten times as much as the value's: of 58
/// problems in up to five variables 50 are then solved in 17 of 20 runs, with two or fifty times 45 and 49.
class LagrangianRanking {
 public:
  explicit LagrangianRanking(Evaluator& evaluate);
  LagrangianRanking(const LagrangianRanking&) = delete;
  LagrangianRanking& operator=(const LagrangianRanking&) = delete;

  /// The augmented Lagrangian at the columns of `points`, which cost an evaluation each.
  void values(const Matrix& points, Vector& values);
  /// Lets multipliers and penalties follow the strategy to where its mean is now. Cost: one evaluation.
  void follow(const Vector& mean);

  /// Where the strategy has settled and constraints are broken: larger penalties for another go. False once that has
  /// been tried often.
  bool raise();

  /// What the last mean ranks by.
  [[nodiscard]] const Standing& standing() const { return standing_; }
  [[nodiscard]] const Multipliers& multipliers() const { return lagrangian_; }

 private:
  void begin(const Evaluations& all);

  Evaluator& evaluate_;
  Multipliers lagrangian_;
  Evaluator view_;
  bool has_begun_ = false;
  int raised_ = 0;
  Standing standing_;
  Vector rows_;  ///< of the last mean; empty before the first
  Vector parts_; ///< likewise
};

} // namespace tanzen::methods
