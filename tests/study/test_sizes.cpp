#include "tanzen/base/errors.hpp"
#include "tanzen/study/campaign.hpp"

#include <doctest/doctest.h>

#include <string>

using namespace tanzen;

TEST_SUITE("sizes of campaigns") {
  TEST_CASE("a campaign has an end, told by what makes it too long") {
    CHECK_NOTHROW(check_size(100, 50, 2000));
    CHECK_THROWS_WITH_AS(check_size(100, 50, 2001),
                         doctest::Contains("100 problems, 50 methods and 2001 repeats make 1e+07 runs"), InputError);
  }

  TEST_CASE("families are counted before they are spelled out") {
    CHECK(family_members("sphere:dim=2,5,10").size() == 3);
    std::string many = "sphere:dim=2", more = ",shift=1";
    for (int k = 3; k < 500; ++k) many += "," + std::to_string(k);
    for (int k = 2; k < 500; ++k) more += "," + std::to_string(k);
    CHECK(family_members(many).size() == 498);
    CHECK_THROWS_WITH_AS((void)family_members(many + more), doctest::Contains("more than 100000 problems"), InputError);
  }
}
