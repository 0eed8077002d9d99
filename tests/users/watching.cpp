// A run stepped from outside, watched, ended by a test of one's own, and gone on with.
#include <tanzen/tanzen.hpp>

#include <fmt/format.h>
#include <optional>
#include <string>

int main() {
  using namespace tanzen;
  const Problem valley = testbed::problem("rosenbrock");
  int rows = 0;
  const Outcome first = run(valley, method("newton-trust-region"),
                            {.start = {-1.2, 1},
                             .observer = [&](const Progress&) { ++rows; },
                             .stop_when = [](const Progress& now) -> std::optional<std::string> {
                               if (now.iteration < 6) return std::nullopt;
                               return "six iterations are enough for today";
                             }});
  if (first.status != Status::own || rows != 7) return 1;
  Run second(valley, as_it_stood(method("newton-trust-region"), first), {.start = first.last_point});
  while (second.step()) fmt::print("{} {}\n", second.progress().iteration, second.progress().value);
  return second.outcome().converged() ? 0 : 1;
}
