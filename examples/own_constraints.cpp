// Constraints of one's own in C++: a shelf of the kiln must carry its load and fit the door, and weigh as little as it
// can. What the answer says of each limit is tried out: the limit is moved, and the best weight changes by its
// multiplier.
#include <tanzen/analysis/diagnosis.hpp>
#include <tanzen/tanzen.hpp>

#include <cmath>

using namespace tanzen;

namespace {

/// Length, width and thickness of the shelf, in decimetres.
Problem shelf(double least_area) {
  const std::vector<Constraint> rows = {
      {.name = "area", .lower = least_area}, {.name = "door", .upper = 4.2}, {.name = "sag", .upper = 0.02}};
  return Problem::from_function(3, [](const auto& x) { return 2.4 * x[0] * x[1] * x[2]; })
      .named("shelf")
      .variables({{"length", "dm"}, {"width", "dm"}, {"thickness", "dm"}})
      .bounds({1, 1, 0.05}, {6, 6, 0.5})
      .start({3, 3, 0.3})
      .with_constraints(rows, [](const auto& x) {
        return std::vector<Expr>{x[0] * x[1], sqrt(pow(x[1], 2) + pow(x[2], 2)), 2e-6 * pow(x[0], 4) / pow(x[2], 3)};
      });
}

} // namespace

int main() {
  const Problem first = shelf(12);
  Outcome best;
  for (const char* name : {"sequential-quadratic", "interior-point", "linear-model"}) { // the last without derivatives
    const Outcome outcome = run(first, method(name));
    fmt::print("{}\n{}\n", name, outcome);
    if (best.start.size() == 0) best = outcome;
  }
  const double more = 0.1;
  const double change = run(shelf(12 + more), method("sequential-quadratic")).value - best.value;
  fmt::print("{} more of area: {:.4f} by its multiplier, {:.4f} by another run\n", more,
             more * best.checked.constraints.front().multiplier, change);
  for (const std::string& hint : diagnose(first, best).hints) fmt::print("hint: {}\n", hint);
}
