#include "tanzen/methods/global/value_spread.hpp"

#include "tanzen/numeric/sampling.hpp"

#include <cmath>

namespace tanzen::methods {

double value_spread(Evaluator& evaluate, const RandomStream& random) {
  const Index count = 10 * evaluate.dimension() + 10;
  Vector values;
  evaluate.values(uniform_points(evaluate.problem().sampling_box(), count, random.child({"spread"})), values);
  double sum = 0, squares = 0, with_value = 0;
  for (const double value : values) {
    if (std::isfinite(value)) sum += value, ++with_value;
  }
  for (const double value : values) {
    if (std::isfinite(value)) squares += std::pow(value - sum / with_value, 2);
  }
  const double spread = with_value > 1 ? std::sqrt(squares / (with_value - 1)) : 0;
  return spread > 0 && std::isfinite(spread) ? spread : 1;
}

} // namespace tanzen::methods
