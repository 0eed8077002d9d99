// A method as the loop on the blackboard, examined, then compared with one of the house.
#include <tanzen/checking.hpp>

#include <fmt/format.h>

namespace {
struct HeavyBall {
  double step = 2e-3;
  float momentum = 0.9F;
  int rest = 0;

  void settings(tanzen::Settings& list) {
    list.add("step", step).positive().means("step along the negative gradient");
    list.add("momentum", momentum).between(0, 1).means("part of the last move that goes on");
    list.add("rest", rest).at_least(0).means("iterations after which the move is forgotten; 0 never");
  }
  tanzen::Search search(tanzen::Evaluator& evaluate, tanzen::Start start) const {
    tanzen::Vector x = start.point, move = tanzen::Vector::Zero(x.size());
    for (int k = 1;; ++k) {
      const tanzen::Vector& gradient = evaluate.gradient(x);
      if (rest > 0 && k % rest == 0) move.setZero();
      move = static_cast<double>(momentum) * move - step * gradient;
      x += move;
      co_yield tanzen::Iteration(x, evaluate(x)).gradient(gradient).column("step", step);
    }
  }
};
} // namespace

int main() {
  using namespace tanzen;
  const Method ball("heavy-ball", HeavyBall{});
  const Problem bowl = Problem::from_formula("x^2 + 20*y^2").start({1, 1});
  const Outcome own = run(bowl, ball.with("rest", 200)), house = run(bowl, method("gradient-descent"));
  fmt::print("{} against {} evaluations\n", own.counts[Spent::evaluations], house.counts[Spent::evaluations]);
  return own.converged() && own.value < 1e-10 ? 0 : 1;
}
