#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/methods/direct/nelder_mead.hpp"
#include "tanzen/methods/gradient/lbfgs.hpp"

#include <algorithm>
#include <doctest/doctest.h>
#include <string>
#include <vector>

using namespace tanzen;

namespace {

struct Idle {
  double patience = 1;

  void settings(Settings& list) { list.add("patience", patience).positive().means("how long it stays"); }
  Search search(Evaluator& /*evaluate*/, Start start) const {
    co_yield Iteration(start.point, start.value).settled("so");
  }
};

} // namespace

TEST_SUITE("the catalogue of methods") {
  TEST_CASE("methods of a list stand in its order, are found with their settings, and no others") {
    const MethodCatalogue few(
        {Method("simplex", methods::NelderMead{}), Method("memory", methods::Lbfgs{}), Method("idle", Idle{})});
    CHECK(few.names() == std::vector<std::string>{"simplex", "memory", "idle"});
    CHECK(few.parse("idle:patience=3").settings()[0].value == "3");
    CHECK(few.find("idle").settings()[0].value == "1");
    CHECK_THROWS_WITH_AS((void)few.find("idel"), "there is no method 'idel'; did you mean 'idle'?", InputError);
    CHECK_THROWS_AS((void)few.find("bfgs"), InputError);
    CHECK(MethodCatalogue().all().empty());
  }

  TEST_CASE("what is added to a copy is not in the original, and a name that is there is replaced") {
    const MethodCatalogue few({Method("idle", Idle{})});
    MethodCatalogue more = few;
    more.add("other", Idle{}).add("idle", Idle{.patience = 7});
    CHECK(few.names() == std::vector<std::string>{"idle"});
    CHECK(more.names() == std::vector<std::string>{"idle", "other"});
    CHECK(few.find("idle").settings()[0].value == "1");
    CHECK(more.find("idle").settings()[0].value == "7");
  }

  TEST_CASE("a method with a setting is another value: the first keeps its own") {
    const Method plain("idle", Idle{}), patient = plain.with("patience", 2.5);
    CHECK(plain.settings()[0].value == "1");
    CHECK(patient.settings()[0].value == "2.5");
    CHECK(patient.label() == "idle:patience=2.5");
    CHECK_THROWS_AS((void)plain.with("patience", -1.0), InputError);
  }

  TEST_CASE("standard methods have a name each") {
    std::vector<std::string> names = standard_methods().names();
    std::ranges::sort(names);
    CHECK(std::ranges::adjacent_find(names) == names.end());
  }
}
