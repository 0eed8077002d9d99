#include "support/program.hpp"

#include "support/sanitized.hpp"
#include <doctest/doctest.h>

using testing::contains;
using testing::run_program;

namespace {

std::string example(const std::string& name) {
  return std::string(TANZEN_EXAMPLES) + "/" + name;
}

} // namespace

TEST_SUITE("examples") {
  TEST_CASE("the first run finds the glaze's minimum at (1, log 5)") {
    const auto result = run_program(example("first_run"), {});
    CHECK(result.code == 0);
    CHECK(contains(result.out, "(1, 1.60944)"));
  }

  TEST_CASE("a formula, a traced function and a black box agree") {
    const auto result = run_program(example("own_problem"), {});
    CHECK(result.code == 0);
    std::size_t found = 0;
    for (std::size_t at = 0; (at = result.out.find("(0.520223, 0.183746)", at)) != std::string::npos; ++at) ++found;
    CHECK(found == 4);
  }

  TEST_CASE("three methods agree on a shelf under three limits, whose multipliers another run confirms") {
    const auto result = run_program(example("own_constraints"), {});
    CHECK(result.code == 0);
    std::size_t found = 0;
    for (std::size_t at = 0; (at = result.out.find("(2.86002, 4.19577, 0.188434)", at)) != std::string::npos; ++at)
      ++found;
    CHECK(found == 3);
    CHECK(contains(result.out, "active: one more unit costs 1.057"));
    CHECK(contains(result.out, "0.1 more of area: 0.1057 by its multiplier, 0.1063 by another run"));
  }

  TEST_CASE("a population and a local method agree on the front of gas against breakage, and on its knee") {
    const auto result = run_program(example("own_front"), {});
    CHECK(result.code == 0);
    CHECK(contains(result.out, "every local search for a point of the front has ended"));
    std::size_t found = 0;
    for (std::size_t at = 0; (at = result.out.find("preferred     gas 2", at)) != std::string::npos; ++at) ++found;
    CHECK(found == 2);
    CHECK(contains(result.out, "costs breakage higher by"));
  }

  TEST_CASE("small batches of a sum over a thousand rows come nearer in ten passes than whole gradients") {
    const auto result = run_program(example("own_sum"), {});
    CHECK(result.code == 0);
    CHECK(contains(result.out, "converged "));
    const auto above = [&](const std::string& by) {
      const std::size_t at = result.out.find("above the best by ", result.out.find(by));
      return std::stod(result.out.substr(at + 18));
    };
    CHECK(above("adam:step=0.05,batch=20 ") < 0.1 * above("adam:step=0.05 "));
    CHECK(above("variance-reduced:step=0.1,batch=5 ") < above("adam:step=0.05,batch=20 "));
  }

  TEST_CASE("the table of the constrained set has a row for each problem, and few are missed") {
    if (testing::is_sanitized) return; // its methods have run on them in the core's tests
    const auto table = run_program(example("standard_set"), {TANZEN_SOURCE "/docs/constrained-set.toml"});
    CHECK(table.code == 0);
    CHECK(contains(table.out, "| hock-schittkowski-71 | 4 | "));
    CHECK(contains(table.out, "| **at a stated minimum** | | 73 of 75 | 74 of 75 |"));
  }

  TEST_CASE("the table of the standard set has a row for each problem and its sums below") {
    const auto table = run_program(example("standard_set"), {TANZEN_SOURCE "/docs/standard-set.toml"});
    CHECK(table.code == 0);
    CHECK(contains(table.out, "| rosenbrock | 2 | "));
    CHECK(contains(table.out, "| **at a stated minimum** | | 35 of 35 |"));
  }

  TEST_CASE("a method of one's own has the whole program") {
    const auto card = run_program(example("own_method"), {"methods", "heavy-ball"});
    CHECK(contains(card.out, "momentum"));
    CHECK(contains(card.out, "no limits"));
    const auto solved =
        run_program(example("own_method"), {"solve", "glaze", "--with", "heavy-ball:step=0.05", "--from", "0,0"});
    CHECK(solved.code == 0);
    CHECK(contains(solved.out, "speed"));
    const auto compared = run_program(example("own_method"), {"compare", "sphere", "--with", "heavy-ball:step=0.05",
                                                              "--with", "nelder-mead", "--repeats", "3"});
    CHECK(contains(compared.out, "heavy-ball:step=0.05        3/3"));
    const auto refused = run_program(example("own_method"), {"solve", "eggholder", "--with", "heavy-ball"});
    CHECK(refused.code == 2);
    CHECK(contains(refused.err, "cannot keep within bounds, and eggholder has them; these can: gradient-descent, "
                                "momentum, nesterov"));
    const auto wrong = run_program(example("own_method"), {"solve", "sphere", "--with", "heavy-ball:momentum=1"});
    CHECK(contains(wrong.err, "must be a number at least 0 and below 1"));
  }
}
