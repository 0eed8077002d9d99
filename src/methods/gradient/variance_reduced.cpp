#include "tanzen/methods/gradient/variance_reduced.hpp"

#include <algorithm>
#include <vector>

namespace tanzen::methods {

MethodCard VarianceReduced::card() {
  return {.title = "steps by the gradients of a few rows of data, corrected by a whole gradient now and then",
          .family = "gradient",
          .source = "Johnson and Zhang, 2013, figure 1",
          .limits = "each step is projected onto them",
          .summary = "For sums over data: as cheap a step as a stochastic gradient's, and it converges with a constant "
                     "one. Without data it is steepest descent.",
          .needs = Derivatives::gradient,
          .able = {.bounds = true}};
}

void VarianceReduced::settings(Settings& list) {
  list.add("step", step).positive().means("length of the step along the gradient of the mean term");
  list.add("batch", batch).at_least(1).means("rows of data that one step takes the gradient of");
  list.add("updates", updates)
      .at_least(1)
      .means("steps between two whole gradients")
      .unset_means("two passes over the data");
}

Search VarianceReduced::search(Evaluator& evaluate, Start start) const {
  const Bounds& bounds = evaluate.bounds();
  RandomStream random = start.random;
  const Index rows = evaluate.rows(), count = updates.value_or(std::max<Index>(1, 2 * rows / batch));
  const double length = step / static_cast<double>(rows);
  std::vector<Index> picked(static_cast<std::size_t>(batch));
  Vector x = std::move(start.point), anchor, change(x.size());
  Vector whole = evaluate.gradient(x);
  for (;;) {
    anchor = x;
    for (Index k = 0; k < count; ++k) {
      for (Index& row : picked) row = random.below(rows);
      change = evaluate.row_gradient(x, picked);
      change -= evaluate.row_gradient(anchor, picked);
      x -= length * (change + whole);
      bounds.project(x);
    }
    const auto [value, gradient] = evaluate.value_and_gradient(x);
    whole = gradient;
    co_yield Iteration(x, value)
        .gradient(whole, bounds)
        .column("step", step)
        .column("updates", static_cast<double>(count));
  }
}

} // namespace tanzen::methods
