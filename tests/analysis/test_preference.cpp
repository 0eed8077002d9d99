#include "tanzen/analysis/preference.hpp"
#include "tanzen/base/errors.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

/// A quarter of a circle, hollow towards the origin: gas from 0 to 10, whole pots from 0 to 100.
Outcome made_front() {
  Outcome outcome;
  outcome.objectives = {{.name = "gas", .sense = Sense::minimize}, {.name = "whole", .sense = Sense::maximize}};
  for (int k = 0; k <= 90; ++k) {
    const double angle = k * std::acos(-1) / 180;
    outcome.front.push_back(
        {Vector{{static_cast<double>(k)}}, Vector{{10 * (1 - std::cos(angle)), 100 * std::sin(angle)}}});
  }
  return outcome;
}

} // namespace

TEST_SUITE("preferences") {
  TEST_CASE("the knee bulges most, weights and wanted values choose where they say") {
    const Outcome outcome = made_front();
    CHECK(choose(outcome, {}).point == 45);
    CHECK(front_ends(outcome) == std::vector<std::size_t>{0, 90});
    const Choice by_gas = choose(outcome, Preference::parse("weights:2,1", 2));
    // Where the slope is -2: tan(angle) = 1/2.
    CHECK(static_cast<double>(by_gas.point) == doctest::Approx(26.57).epsilon(0.03));
    CHECK(choose(outcome, Preference::parse("weights:1,0", 2)).point == 0);
    const Choice wanted = choose(outcome, Preference::parse("reference:5,87", 2));
    CHECK(static_cast<double>(wanted.point) == doctest::Approx(60).epsilon(0.02));
  }

  TEST_CASE(
      "an exchange is to the nearest point that is better by a twentieth of the range, in the objectives' senses") {
    const Outcome outcome = made_front();
    const Choice knee = choose(outcome, {});
    REQUIRE(knee.exchanges.size() == 2);
    CHECK(knee.exchanges[0].objective == 0);
    CHECK(knee.exchanges[0].change[0] <= -0.5);
    CHECK(knee.exchanges[0].change[0] > -0.7);
    CHECK(knee.exchanges[0].change[1] < 0);
    CHECK(knee.exchanges[1].change[1] >= 5);
    CHECK(choose(outcome, Preference::parse("weights:1,0", 2)).exchanges.size() == 1);
    const std::string text = to_text(outcome, knee);
    CHECK(text.find("gas lower by 0.58") != std::string::npos);
    CHECK(text.find("costs whole lower by") != std::string::npos);
  }

  TEST_CASE("one point, and three objectives") {
    Outcome one = made_front();
    one.front.resize(1);
    CHECK(choose(one, {}).point == 0);
    CHECK(choose(one, {}).exchanges.empty());
    Outcome three;
    three.objectives = {{.name = "a"}, {.name = "b"}, {.name = "c"}};
    for (const Vector& f :
         {Vector{{0, 1, 1}}, Vector{{1, 0, 1}}, Vector{{1, 1, 0}}, Vector{{0.3, 0.3, 0.3}}, Vector{{0.5, 0.5, 0.2}}})
      three.front.push_back({Vector{{0}}, f});
    CHECK(choose(three, {}).point == 3);
  }

  TEST_CASE("what is no preference says what would be") {
    for (const char* text : {"best", "weights", "weights:1", "weights:1,2,3", "weights:1,x", "weights:-1,2",
                             "weights:0,0", "reference:1", "knee:1"}) {
      CAPTURE(text);
      CHECK_THROWS_AS((void)Preference::parse(text, 2), InputError);
    }
  }
}
