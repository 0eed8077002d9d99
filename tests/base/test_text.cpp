#include "tanzen/base/errors.hpp"
#include "tanzen/base/specification.hpp"
#include "tanzen/base/text.hpp"

#include <doctest/doctest.h>
#include <rapidcheck.h>

#include <cmath>

using namespace tanzen;

TEST_SUITE("base") {
  TEST_CASE("a number's text reads back to the same double") {
    for (const double value : {0.1, 1.0 / 3, 1e-300, 5e-324, 1.7976931348623157e308, -2.5, 12345678901234567890.0}) {
      CHECK(read_number(number_text(value)) == value);
    }
    CHECK(number_text(0.1) == "0.1");
    CHECK(rc::check("any finite double",
                    [](double value) { return !std::isfinite(value) || read_number(number_text(value)) == value; }));
  }

  TEST_CASE("a bound that is told is true of the number that is read") {
    CHECK(number_at_least(4.02e-7, 2) == "4.1e-07");
    CHECK(number_at_most(4.02e-7, 2) == "4e-07");
    CHECK(number_at_least(-9.858664999996, 10) == "-9.858664999");
    CHECK(number_at_most(-9.858664999996, 10) == "-9.858665");
    CHECK(number_at_most(0.99999951, 6) == "0.999999");
    CHECK(number_at_least(0) == "0");
    CHECK(number_at_most(2.5) == "2.5");
    CHECK(std::isnan(*read_number(number_at_least(std::nan("")))));
    CHECK(rc::check("any finite double is between its bounds, which are near", [](double value) {
      if (!std::isfinite(value)) return true;
      const int digits = *rc::gen::inRange(1, 16);
      const double most = *read_number(number_at_least(value, digits)),
                   least = *read_number(number_at_most(value, digits));
      return least <= value && value <= most && most - least <= std::pow(10, 1 - digits) * 1.001 * std::abs(value);
    }));
  }

  TEST_CASE("what is no whole number is not read") {
    for (const char* text : {"", "x", "1x", "1 2", "--1", "1e", "0x10"}) CHECK_FALSE(read_number(text).has_value());
    CHECK(read_number(" +2.5 ") == 2.5);
  }

  TEST_CASE("a misspelt name finds the one that was meant, and a strange one finds none") {
    const std::vector<std::string> names{"nelder-mead", "gradient-descent", "differential-evolution"};
    CHECK(nearest_name("nelder-maed", names) == "nelder-mead");
    CHECK(nearest_name("gradient", names) == "gradient-descent");
    CHECK(nearest_name("gradeint-descent", names) == "gradient-descent");
    CHECK_FALSE(nearest_name("zzz", names).has_value());
    CHECK_FALSE(nearest_name(std::string(100'000, 'n'), names).has_value());
    CHECK(did_you_mean("sphre", std::vector<std::string>{"sphere"}) == "; did you mean 'sphere'?");
  }

  TEST_CASE("names sort as people count") {
    CHECK(natural_less("x2", "x10"));
    CHECK_FALSE(natural_less("x10", "x2"));
    CHECK(natural_less("a", "b"));
    CHECK(natural_less("x", "x1"));
    CHECK(natural_less("x9y", "x10a"));
    CHECK_FALSE(natural_less("x1", "x1"));
  }

  TEST_CASE("a text error shows the line and a caret under the character, counted in characters") {
    const TextError error("something is wrong", "a = \xC3\xA9t\xC3\xA9 + ?", 10);
    CHECK(std::string(error.what()) == "something is wrong, at column 9\n  a = \xC3\xA9t\xC3\xA9 + ?\n          ^");
    const TextError second("wrong", "one\ntwo x", 8);
    CHECK(std::string(second.what()) == "wrong, at line 2, column 5\n  two x\n      ^");
  }

  TEST_CASE("a text error in a huge text shows a window of it") {
    const TextError error("wrong", std::string(1'000'000, 'x'), 500'000);
    CHECK(std::string(error.what()).size() < 400);
  }

  TEST_CASE("clipping never cuts through a character") {
    CHECK(clipped("\xC3\xA9\xC3\xA9", 3) == "\xC3\xA9...");
    CHECK(clipped("short") == "short");
  }

  TEST_CASE("a name with options reads as written") {
    const auto parsed = Specification::parse(" rosenbrock : dim = 10 , shift=3 ");
    CHECK(parsed.name == "rosenbrock");
    REQUIRE(parsed.options.size() == 2);
    CHECK(parsed.options[0] == std::pair<std::string, std::string>("dim", "10"));
    CHECK(parsed.options[1] == std::pair<std::string, std::string>("shift", "3"));
    CHECK(Specification::parse("sphere").options.empty());
  }

  TEST_CASE("options that cannot be are refused with their reason") {
    CHECK_THROWS_WITH_AS((void)Specification::parse("sphere:dim"), doctest::Contains("'dim' has no value"), InputError);
    CHECK_THROWS_WITH_AS((void)Specification::parse("sphere:dim=1,dim=2"), doctest::Contains("given twice"),
                         InputError);
    CHECK_THROWS_WITH_AS((void)Specification::parse(":dim=1"), doctest::Contains("has no name"), InputError);
  }
}
