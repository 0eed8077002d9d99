// A model for data from residuals in C++.
#include <tanzen/tanzen.hpp>

#include <array>
#include <cmath>
#include <fmt/format.h>
#include <vector>

int main() {
  using namespace tanzen;
  constexpr std::array minutes = {0.0, 5.0, 10.0, 20.0, 40.0, 60.0};
  constexpr std::array celsius = {900.0, 720.0, 580.0, 385.0, 185.0, 100.0};
  const Problem cooling = Problem::from_residuals(2,
                                                  [&](const auto& p) {
                                                    std::vector<Expr> residuals;
                                                    for (std::size_t k = 0; k < minutes.size(); ++k)
                                                      residuals.push_back(p[0] * exp(-p[1] * minutes[k]) - celsius[k]);
                                                    return residuals;
                                                  })
                              .variables({{.name = "peak"}, {.name = "rate"}})
                              .start({800, 0.03});
  const Outcome outcome = run(cooling, method("levenberg-marquardt"));
  fmt::print("peak {:.1f}, rate {:.4f}\n", outcome.point[0], outcome.point[1]);
  return outcome.converged() && std::abs(outcome.point[0] - 900) < 20 ? 0 : 1;
}
