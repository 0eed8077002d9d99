#include "tanzen/search/found_minima.hpp"

#include <doctest/doctest.h>

using namespace tanzen;

TEST_SUITE("found minima") {
  TEST_CASE("two within a thousandth of the region in every coordinate are one, and the lower stays") {
    FoundMinima minima(Box{Vector{{0, 0}}, Vector{{10, 1000}}}); // apart by 0.01 and by 1
    minima.add(Vector{{5, 500}}, 2);
    minima.add(Vector{{5.009, 500.9}}, 1);
    REQUIRE(minima.all().size() == 1);
    CHECK(minima.all()[0].times == 2);
    CHECK(minima.all()[0].value == 1);
    CHECK(minima.all()[0].point == Vector{{5.009, 500.9}});
    minima.add(Vector{{5.0085, 500.95}}, 3); // higher: counted, but it does not take the place
    CHECK(minima.all()[0].times == 3);
    CHECK(minima.all()[0].value == 1);
  }

  TEST_CASE("one coordinate that is farther away makes another minimum") {
    FoundMinima minima(Box{Vector{{0, 0}}, Vector{{10, 1000}}});
    minima.add(Vector{{5, 500}}, 2);
    minima.add(Vector{{5.02, 500}}, 2);
    minima.add(Vector{{5, 502}}, 2);
    REQUIRE(minima.all().size() == 3);
    for (const FoundMinimum& each : minima.all()) CHECK(each.times == 1);
    CHECK(minima.contains(Vector{{5, 500.5}}));
    CHECK_FALSE(minima.contains(Vector{{5, 505}}));
  }

  TEST_CASE("they stand in the order in which they were found") {
    FoundMinima minima(Box{Vector{{0}}, Vector{{1}}});
    for (const double x : {0.7, 0.1, 0.4, 0.1, 0.7, 0.7}) minima.add(Vector{{x}}, x);
    REQUIRE(minima.all().size() == 3);
    CHECK(minima.all()[0].point[0] == 0.7);
    CHECK(minima.all()[0].times == 3);
    CHECK(minima.all()[1].times == 2);
    CHECK(minima.all()[2].times == 1);
  }
}
