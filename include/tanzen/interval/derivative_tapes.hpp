#pragma once

#include "tanzen/interval/interval_tape.hpp"

#include <span>
#include <vector>

namespace tanzen {

/// The first derivatives of an expression, each an expression of its own, by which boxes are narrowed to where they
/// vanish. The numbers of the expression stand in them as variables of no width, so that none of them was rounded when
/// the derivative was formed.
///
/// Operations whose derivative has a number that no double is (logarithms to bases 2 and 10, powers by other
/// numbers than small quarters) are left to other means: then there are none.
class DerivativeTapes {
 public:
  explicit DerivativeTapes(const Expression& expression);

  [[nodiscard]] bool is_empty() const { return tapes_.empty(); }

  /// Narrows the box to where the derivative by that variable may be zero, if it is smooth all over the box. False
  /// where it is zero nowhere in it. Requires that there are tapes. Cost: two values of it.
  [[nodiscard]] bool contract(Index variable, std::span<Enclosure> box);

 private:
  std::vector<Enclosure> numbers_; ///< of the expression
  std::vector<Enclosure> box_;     ///< the variables, then the numbers
  std::vector<IntervalTape> tapes_;
  std::vector<IntervalTape::Workspace> work_;
};

} // namespace tanzen
