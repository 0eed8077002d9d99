#include "tanzen/methods/gradient/quasi_newton.hpp"

#include "noisy_descent.hpp"

namespace tanzen::methods {
namespace {

/// Brings an estimate of the inverse Hessian up to date: `s` the step, `y` the change of the gradient, sy = s · y > 0,
/// `work` a vector.
using InverseUpdate = void (*)(Matrix& inverse, const Vector& s, const Vector& y, double sy, Vector& work);

void bfgs_update(Matrix& inverse, const Vector& s, const Vector& y, double sy, Vector& work) {
  work.noalias() = inverse * y;
  const double weight = (1 + y.dot(work) / sy) / sy;
  for (Index j = 0; j < s.size(); ++j) {
    inverse.col(j) += (weight * s[j] - work[j] / sy) * s - s[j] / sy * work;
  }
}

void dfp_update(Matrix& inverse, const Vector& s, const Vector& y, double sy, Vector& work) {
  work.noalias() = inverse * y;
  const double yhy = y.dot(work);
  for (Index j = 0; j < s.size(); ++j) inverse.col(j) += s[j] / sy * s - work[j] / yhy * work;
}

/// Brings the estimate up to date where the curvature along the step is positive; a fresh one is scaled by it first.
bool learn(Matrix& inverse, bool is_fresh, InverseUpdate update, const Vector& s, const Vector& y, Vector& work) {
  const double sy = s.dot(y);
  if (!(sy > std::numeric_limits<double>::epsilon() * s.norm() * y.norm())) return false;
  if (is_fresh) inverse.diagonal().setConstant(sy / y.squaredNorm()); // the scale of the curvature seen
  update(inverse, s, y, sy, work);
  return true;
}

/// The estimate as a memory of its own.
class InverseMemory {
 public:
  InverseMemory(Index n, InverseUpdate update) : inverse_(Matrix::Identity(n, n)), work_(n), update_(update) {}

  void multiply(Vector& q) {
    work_.noalias() = inverse_ * q;
    q.swap(work_);
  }
  void learn(const Vector& s, const Vector& y) {
    if (methods::learn(inverse_, is_fresh_, update_, s, y, work_)) is_fresh_ = false;
  }
  void forget() {
    inverse_.setIdentity();
    is_fresh_ = true;
  }

 private:
  Matrix inverse_;
  Vector work_;
  InverseUpdate update_;
  bool is_fresh_ = true;
};

Search quasi_newton(Evaluator& evaluate, Start start, LineSettings line, InverseUpdate update) {
  const Index n = start.point.size();
  const auto line_search = make_line_search(line);
  const FirstLength first_length(evaluate.problem());
  Vector x = std::move(start.point);
  Vector g = evaluate.gradient(x), direction(n), s(n), y(n), work(n);
  Matrix inverse = Matrix::Identity(n, n);
  bool is_fresh = true; // the estimate is the identity still
  double value = start.value;
  for (;;) {
    direction.noalias() = inverse * g;
    direction = -direction;
    const double slope = g.dot(direction);
    const double trial = is_fresh ? first_length(value, g) : 1;
    const LineStep step = line_search->find(evaluate, x, value, direction, slope, trial);
    if (step.step == 0 && !is_fresh) {
      inverse.setIdentity();
      is_fresh = true;
      continue;
    }
    if (step.step == 0) {
      co_yield Iteration(x, value).gradient(g).column("step", 0).stalled(no_lower_value);
      continue;
    }
    s = line_search->point - x;
    y = evaluate.last_gradient() - g;
    x.swap(line_search->point);
    g = evaluate.last_gradient();
    value = step.value;
    if (learn(inverse, is_fresh, update, s, y, work)) is_fresh = false;
    co_yield Iteration(x, value)
        .gradient(g)
        .column("step", step.step)
        .column("trials", static_cast<double>(step.trials));
  }
}

} // namespace

MethodCard Bfgs::card() {
  return {.title = "quasi-Newton with the update of Broyden, Fletcher, Goldfarb and Shanno",
          .family = "gradient",
          .source = "Broyden, 1970; Fletcher, 1970; Goldfarb, 1970; Shanno, 1970; Nocedal and Wright, 2006, algorithm "
                    "6.1; noise: "
                    "Berahas, Byrd and Nocedal, 2019",
          .summary = "The first choice for a smooth function of up to some hundred variables: superlinear convergence "
                     "from gradients alone.",
          .needs = Derivatives::gradient};
}

void Bfgs::settings(Settings& list) {
  line.settings(list);
  add_noise(list, noise);
}

Search Bfgs::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  if (noise) return descend_through_noise(evaluate, std::move(start), *noise, InverseMemory(n, bfgs_update));
  return quasi_newton(evaluate, std::move(start), line, bfgs_update);
}

MethodCard Dfp::card() {
  return {.title = "quasi-Newton with the update of Davidon, Fletcher and Powell",
          .family = "gradient",
          .source = "Davidon, 1959; Fletcher and Powell, 1963; Nocedal and Wright, 2006, equation 6.15",
          .summary =
              "The first of the quasi-Newton methods, to be compared with bfgs: it recovers more slowly from a bad "
              "estimate of the curvature.",
          .needs = Derivatives::gradient};
}

void Dfp::settings(Settings& list) {
  line.settings(list);
}

Search Dfp::search(Evaluator& evaluate, Start start) const {
  return quasi_newton(evaluate, std::move(start), line, dfp_update);
}

} // namespace tanzen::methods
