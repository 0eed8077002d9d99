#include "tanzen/analysis/conformance.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/allocations.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <fstream>
#include <regex>
#include <string>

using namespace tanzen;

namespace {

/// Methods that begin local searches, keep all that they have seen, factor, or shrink: they need memory as they go.
bool needs_memory_as_it_goes(const Method& method) {
  constexpr std::array names = {"multistart",
                                "single-linkage",
                                "basin-hopping",
                                "generalized-annealing",
                                "direct",
                                "surrogate",
                                "adaptive-differential-evolution",
                                "augmented-lagrangian",
                                "sequential-quadratic",
                                "interior-point",
                                "linear-model",
                                "gradient-sampling",
                                "mesh-adaptive",
                                "branch-and-bound",
                                "quadratic-model", // where it builds its system anew
                                "penalty",
                                "levenberg-marquardt",
                                "derivative-free-fit",
                                "variable-projection",
                                "gauss-newton",
                                "dogleg",
                                "nondominated-sorting",
                                "reference-points",
                                "decomposition",
                                "hypervolume-selection",
                                "generalized-differential",
                                "direct-multisearch",
                                "weighted-sum",
                                "epsilon-constraint",
                                "chebyshev",
                                "boundary-intersection"};
  return std::ranges::find(names, method.name()) != names.end();
}

/// A method whose faults are chosen by name: what the examination has to find.
struct Faulty {
  enum class Fault { none, strays, counts_on, forgets_seed, throws_at_holes, infinite_column, never_ends };
  Fault fault = Fault::none;

  static MethodCard card() {
    MethodCard card;
    card.limits = "points are moved onto them";
    card.able.bounds = true;
    return card;
  }
  void settings(Settings& /*list*/) {}
  Search search(Evaluator& evaluate, Start start) const {
    static std::uint64_t calls = 0;
    RandomStream random = fault == Fault::forgets_seed ? RandomStream(++calls, {"faulty"}) : start.random;
    Vector x = start.point, best = x;
    double value = start.value, width = 1;
    for (;;) {
      for (double& coordinate : x) coordinate += width * random.uniform(-1, 1);
      if (fault != Fault::strays) evaluate.bounds().project(x);
      double found = evaluate(x);
      if (fault == Fault::throws_at_holes && std::isinf(found)) throw std::runtime_error("no value here");
      if (fault == Fault::counts_on) { // asks the objective behind the evaluator's back
        found = evaluate.problem().value(x);
      }
      if (found < value) {
        best = x;
        value = found;
      }
      x = best;
      width = std::max(0.99 * width, 1e-3);
      Iteration now(best, value);
      now.column("width", fault == Fault::infinite_column && width < 0.5 ? INFINITY : width);
      if (width <= 1e-3 && fault != Fault::never_ends) now.settled("narrow");
      co_yield now;
    }
  }
};

/// What takes long with many points, and does nothing else with few.
Method in_short(const Method& method) {
  if (method.name() == "surrogate") return method.with("most-points", 50);
  constexpr std::array scalarizations = {"weighted-sum", "epsilon-constraint", "chebyshev", "boundary-intersection"};
  const bool is_one = std::ranges::find(scalarizations, method.name()) != scalarizations.end();
  return is_one ? method.with("points", 5) : method;
}

void examine_every_second(std::size_t first) {
  const std::vector<Method>& all = standard_methods().all();
  for (std::size_t k = first; k < all.size(); k += 2) {
    const ConformanceReport report = check_method(in_short(all[k]));
    for (const ConformanceCheck& check : report.checks) {
      CAPTURE(all[k].name());
      CAPTURE(check.detail);
      CHECK_MESSAGE(check.passed, check.name);
    }
  }
}

std::string first_failed(Faulty::Fault fault) {
  const ConformanceReport report = check_method(Method("faulty", Faulty{fault}));
  for (const ConformanceCheck& check : report.checks) {
    if (!check.passed) return check.name;
  }
  return "";
}

} // namespace

TEST_SUITE("every method of the catalogue") {
  // In halves, which run side by side.
  TEST_CASE("at even places pass the examination that is offered to users") {
    examine_every_second(0);
  }
  TEST_CASE("at odd places pass the examination that is offered to users") {
    examine_every_second(1);
  }

  TEST_CASE("passes it in its other forms too") {
    for (const char* form :
         {"cma-es:form=separable", "cma-es:form=limited", "cma-es:restarts=increasing", "cma-es:restarts=two-regimes",
          "evolution-strategy:form=one-fifth", "particle-swarm:neighbours=ring", "pattern-search:form=compass",
          "direct:biased=true", "nelder-mead:restarts=3", "annealing:cooling=inverse,levels=40",
          "basin-hopping:local=nelder-mead,patience=100", "differential-evolution:mutation=current-to-best-1",
          "differential-evolution:mutation=rand-2,crossing=exponential",
          "decomposition:children=differences,by=boundary", "decomposition:by=sum", "reference-points:parts=20"}) {
      const ConformanceReport report = check_method(standard_methods().parse(form));
      for (const ConformanceCheck& check : report.checks) {
        CAPTURE(form);
        CAPTURE(check.detail);
        CHECK_MESSAGE(check.passed, check.name);
      }
    }
  }

  TEST_CASE("the examination finds each fault that it is there for") {
    using enum Faulty::Fault;
    CHECK(first_failed(none).empty());
    CHECK(first_failed(strays) == "keeps within bounds");
    CHECK(first_failed(counts_on) == "keeps a limit to the evaluation");
    CHECK(first_failed(forgets_seed) == "repeats bit for bit by its seed");
    CHECK(first_failed(throws_at_holes) == "survives values that are missing");
    CHECK(first_failed(infinite_column) == "reports columns that are finite");
    CHECK(first_failed(never_ends) == "ends by itself on a constant function");
  }

  TEST_CASE("needs no more evaluations than the table says that it did") {
    // scripts/evaluation_table.sh writes the table, with the same limit; a tenth is left for other compilers' rounding.
    std::ifstream table(TANZEN_SOURCE "/tests/methods/evaluations.csv");
    const std::regex row("([^,]+),\"([^\"]+)\",([0-9]+),([0-9]+)");
    std::string line;
    int rows = 0;
    for (std::getline(table, line); std::getline(table, line); ++rows) {
      CAPTURE(line);
      std::smatch cells;
      REQUIRE(std::regex_match(line, cells, row));
      const Outcome outcome = run(testbed::parse_problem(cells[2].str()), method(cells[1].str()),
                                  {.stop = {.evaluations = 20'000, .gap = 1e-6}});
      CHECK(outcome.status == Status::target);
      CHECK(static_cast<double>(outcome.counts[Spent::evaluations]) <= 1.1 * std::stod(cells[3].str()));
      CHECK(static_cast<double>(outcome.counts[Spent::gradients]) <= 1.1 * std::stod(cells[4].str()));
    }
    CHECK(rows >= 100);
  }

  TEST_CASE("comes to a minimum that lies on the bounds") {
    // These look everywhere, or only roughly: they come near.
    constexpr std::array rough = {"random-search", "spsa", "surrogate", "genetic", "hill-climb", "annealing", "direct"};
    for (const Method& each : standard_methods().all()) {
      if (!each.card().able.bounds) continue;
      CAPTURE(each.name());
      const Index n = std::min<Index>(3, each.card().able.most_variables);
      const Vector wanted = Vector{{0.05, 0.3, 0.9}}.head(n);
      const Problem fenced = Problem::from_function(n, [&](const auto& x) {
                               Expr sum;
                               for (Index i = 0; i < n; ++i) sum += pow(x[i] - wanted[i], 2);
                               return sum;
                             }).bounds(Vector(Vector::Constant(n, 0.1)), Vector(Vector::Constant(n, 0.7)));
      if (why_not(each, fenced)) continue;
      const double best = n == 1 ? 0.0025 : 0.0425;
      const bool is_rough = std::ranges::find(rough, each.name()) != rough.end();
      const Outcome outcome =
          run(fenced, each, {.stop = {.evaluations = 9000, .target = best + (is_rough ? 1e-2 : 1e-6)}});
      CHECK(outcome.status == Status::target);
    }
  }

  TEST_CASE("allocates nothing in an iteration once it is under way") {
    for (const Method& each : standard_methods().all()) {
      if (needs_memory_as_it_goes(each)) continue;
      CAPTURE(each.name());
      const Index n = std::min<Index>(10, each.card().able.most_variables);
      const Problem problem = testbed::problem("styblinski-tang", n);
      Evaluator evaluate(problem, {}, DerivativeMode::automatic);
      const Vector start = Vector::LinSpaced(n, 0.5, 4);
      Search search =
          each.search(evaluate, {.point = start, .value = evaluate(start), .random = RandomStream(1, {"test"})});
      for (int warming = 0; warming < 3 && search.next(); ++warming) {
      }
      for (int k = 0; k < 20; ++k) {
        CAPTURE(k);
        const testing::AllocationWatch watch;
        const bool goes_on = search.next();
        CHECK(watch.allocations() == 0);
        if (!goes_on || !search.iteration().end_reason().empty()) break;
      }
    }
  }

  TEST_CASE("says on its card what it is, where it is from, and who keeps bounds") {
    for (const Method& each : standard_methods().all()) {
      CAPTURE(each.name());
      const MethodCard& card = each.card();
      CHECK_FALSE(card.title.empty());
      CHECK_FALSE(card.source.empty());
      CHECK_FALSE(card.summary.empty());
      for (const auto& setting : each.settings()) {
        CAPTURE(setting.name);
        CHECK_FALSE(setting.meaning.empty());
        CHECK_FALSE(setting.value.empty());
      }
    }
  }
}
