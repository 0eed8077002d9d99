#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/proved_values.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/sanitized.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <string>

using namespace tanzen;

TEST_SUITE("proofs") {
  TEST_CASE("what the cards say is proved holds the stated value, and what takes few boxes is proved again") {
    const std::int64_t most = testing::is_sanitized ? 50 : 3000;
    int again = 0;
    for (const testbed::ProvedValue& row : testbed::proved_values()) {
      CAPTURE(std::string(row.problem));
      const Problem problem = testbed::parse_problem(row.problem);
      CHECK(row.lower <= row.upper);
      if (const auto stated = problem.best_known()) {
        const double room = 1e-12 * std::max(1.0, std::abs(*stated)); // of digits that are stated
        CHECK(*stated >= row.lower - room);
        CHECK(*stated <= row.upper + room);
      }
      if (row.looked_at > most) continue;
      ++again;
      const Outcome outcome = run(problem, method("branch-and-bound"), {.stop = {.iterations = 300}});
      REQUIRE(outcome.proof);
      CHECK(outcome.proof->lower <= row.upper);
      CHECK(outcome.proof->upper >= row.lower);
      CHECK(static_cast<int>(outcome.proof->boxes.size()) == row.boxes);
    }
    CHECK(again > 50);
    CHECK(testbed::proved_value("himmelblau") != nullptr);
    CHECK(testbed::proved_value("tripod") == nullptr);
  }
}
