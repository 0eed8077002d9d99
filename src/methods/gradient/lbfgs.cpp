#include "tanzen/methods/gradient/lbfgs.hpp"

#include "noisy_descent.hpp"
#include "step_memory.hpp"

namespace tanzen::methods {
namespace {

/// As many pairs as there are variables, while they take no more than a cache holds.
Index usual_memory(Index n) {
  constexpr Index least = 10, most = 40, numbers = 100'000;
  return std::clamp(std::min(n, numbers / n), least, most);
}

} // namespace

MethodCard Lbfgs::card() {
  return {.title = "limited-memory quasi-Newton",
          .family = "gradient",
          .source = "Nocedal, 1980; Liu and Nocedal, 1989; Nocedal and Wright, 2006, algorithms 7.4 and 7.5; noise: "
                    "Berahas, Byrd "
                    "and Nocedal, 2019",
          .summary = "The first choice for a smooth function of very many variables: a few vectors of memory and no "
                     "matrix. Within bounds use lbfgs-bounded.",
          .needs = Derivatives::gradient};
}

void Lbfgs::settings(Settings& list) {
  list.add("memory", memory)
      .at_least(1)
      .means("how many of the last steps are remembered")
      .unset_means("the number of variables, within 10 and 40; 10 from ten thousand variables on");
  line.settings(list);
  add_noise(list, noise);
}

Search Lbfgs::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  if (noise)
    return descend_through_noise(evaluate, std::move(start), *noise, StepMemory(n, memory.value_or(usual_memory(n))));
  return search_plainly(evaluate, std::move(start));
}

Search Lbfgs::search_plainly(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  StepMemory remembered(n, memory.value_or(usual_memory(n)));
  const auto line_search = make_line_search(line);
  const FirstLength first_length(evaluate.problem());
  Vector x = std::move(start.point);
  evaluate.gradient(x);
  const Vector& g = evaluate.last_gradient(); // of the last point looked at: no copy is kept beside the memory's
  Vector direction(n);
  double value = start.value;
  for (;;) {
    direction = -g;
    remembered.multiply(direction);
    remembered.next_change() = -g; // the change is this plus the next gradient
    const double slope = g.dot(direction), first = first_length(value, g);
    LineStep step = line_search->find(evaluate, x, value, direction, slope, remembered.empty() ? first : 1);
    if (step.step == 0 && !remembered.empty()) {
      remembered.clear();
      direction = remembered.next_change();
      step = line_search->find(evaluate, x, value, direction, -direction.squaredNorm(), first);
    }
    if (step.step == 0) {
      co_yield Iteration(x, value)
          .gradient_norm(remembered.next_change().norm())
          .column("step", 0)
          .stalled(no_lower_value);
      continue;
    }
    remembered.next_step() = line_search->point - x;
    remembered.next_change() += g;
    remembered.keep();
    x.swap(line_search->point);
    value = step.value;
    co_yield Iteration(x, value)
        .gradient(g)
        .column("step", step.step)
        .column("trials", static_cast<double>(step.trials));
  }
}

} // namespace tanzen::methods
