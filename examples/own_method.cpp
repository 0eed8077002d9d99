// A method of one's own is its textbook loop. Handed to the command line it is in the whole program: limits, traces,
// figures, comparisons. Try: own_method compare rosenbrock --with heavy-ball --with nelder-mead
#include <tanzen/cli/command_line.hpp>
#include <tanzen/search/evaluator.hpp>
#include <tanzen/search/method.hpp>

using namespace tanzen;

namespace {

/// Gradient descent with momentum (Polyak, 1964).
struct HeavyBall {
  double step = 1e-3;
  double momentum = 0.9;

  void settings(Settings& list) {
    list.add("step", step).positive().means("along the negative gradient");
    list.add("momentum", momentum).at_least(0).below(1).means("part of the last move that is kept");
  }

  Search search(Evaluator& evaluate, Start start) const {
    Vector x = start.point;
    Vector velocity = Vector::Zero(x.size());
    for (;;) {
      velocity = momentum * velocity - step * evaluate.gradient(x);
      x += velocity;
      co_yield Iteration(x, evaluate(x)).gradient_norm(evaluate.gradient(x).norm()).column("speed", velocity.norm());
    }
  }
};

} // namespace

int main(int argc, char** argv) {
  Additions additions;
  additions.methods.add("heavy-ball", HeavyBall{});
  additions.problems.push_back(Problem::from_formula("0.4*(glaze - 2)^2 + 0.1*glaze*heat + (heat - 3)^2")
                                   .named("glaze")
                                   .titled("thickness of a glaze and heat"));
  return run_command_line(argc, argv, additions);
}
