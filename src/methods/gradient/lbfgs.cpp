#include "tanzen/methods/gradient/lbfgs.hpp"

namespace tanzen::methods {
namespace {

/// The last steps and changes of the gradient, and what they say of the inverse Hessian.
class StepMemory {
 public:
  StepMemory(Index n, Index memory) : steps_(n, memory), changes_(n, memory), products_(memory), weights_(memory) {}

  [[nodiscard]] bool empty() const { return count_ == 0; }
  void clear() { count_ = 0; }

  /// Where the next step and change are written; `keep` makes them count, unless the curvature along the step is not
  /// positive.
  [[nodiscard]] auto next_step() { return steps_.col(next_); }
  [[nodiscard]] auto next_change() { return changes_.col(next_); }
  void keep() {
    const double product = steps_.col(next_).dot(changes_.col(next_));
    const double scale = steps_.col(next_).norm() * changes_.col(next_).norm();
    if (!(product > std::numeric_limits<double>::epsilon() * scale)) {
      count_ = std::min(count_, steps_.cols() - 1); // it was written over the oldest
      return;
    }
    products_[next_] = product;
    next_ = (next_ + 1) % steps_.cols();
    count_ = std::min(count_ + 1, steps_.cols());
  }

  /// `q` becomes the estimate of the inverse Hessian times `q` (algorithm 7.4).
  void multiply(Vector& q) {
    for (Index k = 1; k <= count_; ++k) {
      const Index i = place(k);
      weights_[i] = steps_.col(i).dot(q) / products_[i];
      q -= weights_[i] * changes_.col(i);
    }
    if (count_ > 0) q *= products_[place(1)] / changes_.col(place(1)).squaredNorm(); // equation 7.20
    for (Index k = count_; k >= 1; --k) {
      const Index i = place(k);
      q += (weights_[i] - changes_.col(i).dot(q) / products_[i]) * steps_.col(i);
    }
  }

 private:
  /// Of the k-th last pair.
  [[nodiscard]] Index place(Index k) const { return (next_ - k + steps_.cols()) % steps_.cols(); }

  Matrix steps_, changes_;
  Vector products_, weights_;
  Index next_ = 0;
  Index count_ = 0;
};

/// As many pairs as there are variables, while they take no more than a cache holds.
Index usual_memory(Index n) {
  constexpr Index least = 10, most = 40, numbers = 100'000;
  return std::clamp(std::min(n, numbers / n), least, most);
}

} // namespace

MethodCard Lbfgs::card() {
  return {.title = "limited-memory quasi-Newton",
          .family = "gradient",
          .source = "Nocedal, 1980; Liu and Nocedal, 1989; Nocedal and Wright, 2006, algorithms 7.4 and 7.5",
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
}

Search Lbfgs::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  StepMemory remembered(n, memory.value_or(usual_memory(n)));
  const auto line_search = make_line_search(line);
  Vector x = std::move(start.point);
  evaluate.gradient(x);
  const Vector& g = evaluate.last_gradient(); // of the last point looked at: no copy is kept beside the memory's
  Vector direction(n);
  double value = start.value;
  for (;;) {
    direction = -g;
    remembered.multiply(direction);
    remembered.next_change() = -g; // the change is this plus the next gradient
    const double slope = g.dot(direction), first = first_length(g);
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
        .gradient_norm(g.norm())
        .column("step", step.step)
        .column("trials", static_cast<double>(step.trials));
  }
}

} // namespace tanzen::methods
