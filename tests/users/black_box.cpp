// A simulation that is only called, by several threads at once.
#include <tanzen/campaigns.hpp>

#include <cmath>
#include <fmt/format.h>

namespace {
double fire(const tanzen::Vector& settings) {
  return std::abs(settings[0] - 1.2) + 2 * std::abs(settings[1] + 0.5) + settings[2] * settings[2];
}
} // namespace

int main() {
  using namespace tanzen;
  const Problem kiln = Problem::black_box(3, fire, Calls::concurrent).named("kiln").region(-3, 3);
  const Outcome outcome =
      run(kiln, method("cma-es"), {.seed = 3, .stop = {.evaluations = 4000}, .team = thread_team(3)});
  fmt::print("{}\n", outcome);
  return outcome.value < 1e-3 ? 0 : 1;
}
