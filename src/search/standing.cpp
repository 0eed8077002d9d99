#include "tanzen/search/standing.hpp"

#include "tanzen/search/evaluator.hpp"

namespace tanzen {

Standing standing_at(Evaluator& evaluate, const Vector& x) {
  if (evaluate.part_counts().constraints == 0) return {evaluate(x), 0};
  const Evaluation& at = evaluate.at(x);
  return {at.value, at.violation};
}

} // namespace tanzen
