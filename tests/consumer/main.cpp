#include <tanzen/tanzen.hpp>

int main() {
  const auto outcome = tanzen::run(tanzen::testbed::problem("sphere", 3), tanzen::method("nelder-mead"),
                                   {.start = tanzen::Coordinates{1, 2, 3}});
  fmt::print("{}\n", outcome);
  return outcome.converged() && outcome.value < 1e-12 ? 0 : 1;
}
