#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

using namespace tanzen;

TEST_SUITE("observed problems") {
  TEST_CASE("a listener hears every value, and the run is the same as without") {
    const Problem valley = testbed::problem("rosenbrock");
    int heard = 0;
    const Problem listened = valley.observed([&](const Vector&, double) { ++heard; });
    for (const char* name : {"bfgs", "nelder-mead", "newton-trust-region"}) {
      heard = 0;
      const Outcome plain = run(valley, method(name), {}), told = run(listened, method(name), {});
      CHECK(told.point == plain.point);
      CHECK(told.counts[Spent::gradients] == plain.counts[Spent::gradients]);
      CHECK(heard >= told.counts[Spent::evaluations]); // gradients asked for alone are heard as well
    }
  }
}
