// A C++ function with gradients for free, bounds alike for all variables, several starts.
#include <tanzen/tanzen.hpp>

#include <fmt/format.h>

int main() {
  using namespace tanzen;
  const Problem shelf = Problem::from_function(3,
                                               [](const auto& x) {
                                                 Expr sum = 0;
                                                 for (Index i = 0; i < x.size(); ++i)
                                                   sum += pow(x[i] - 0.3 * static_cast<double>(i), 4) + 1;
                                                 return choose(x[0] < -4, 100.0, sum);
                                               })
                            .named("shelf")
                            .bounds(-5, 5)
                            .region(-2, 2);
  const Matrix starts = Matrix::Random(3, 4);
  double worst = 0;
  for (Index k = 0; k < starts.cols(); ++k) {
    const Outcome outcome = run(shelf, method("lbfgs-bounded"), {.start = starts.col(k)});
    worst = std::max(worst, outcome.value);
  }
  fmt::print("worst of four: {}\n", worst);
  return worst < 3.001 ? 0 : 1;
}
