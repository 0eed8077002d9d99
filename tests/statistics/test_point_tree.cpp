// What a tree of points finds and takes is what a look at each of them would.
#include "tanzen/statistics/point_tree.hpp"

#include "tanzen/numeric/random.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>
#include <map>

using namespace tanzen;

namespace {

using Numbers = std::vector<double>;

bool lies_at_or_below(const Numbers& a, const Numbers& b) {
  return std::ranges::equal(a, b, std::less_equal<>());
}

/// The same by looking at each.
struct PointList {
  std::map<std::size_t, Numbers> points = {};

  [[nodiscard]] bool has_at_or_below(const Numbers& point) const {
    return std::ranges::any_of(points, [&](const auto& each) { return lies_at_or_below(each.second, point); });
  }
  std::vector<std::size_t> take_at_or_above(const Numbers& point) {
    std::vector<std::size_t> taken;
    for (const auto& [known_by, numbers] : points)
      if (lies_at_or_below(point, numbers)) taken.push_back(known_by);
    for (const std::size_t known_by : taken) points.erase(known_by);
    return taken;
  }
};

/// On a simplex, so that many lie side by side; on a grid of `steps`, many of them equal.
Numbers drawn_numbers(RandomStream& random, std::size_t length, double steps) {
  Numbers numbers(length);
  double sum = 0;
  for (double& number : numbers) sum += number = -std::log(1 - random.uniform());
  for (double& number : numbers) number = std::round((number / sum + 0.1 * random.uniform()) * steps) / steps;
  return numbers;
}

/// Compares `count` rounds of both, and says how many are there at the end; `as_archive` takes only what nothing
/// covers.
std::size_t compare_rounds(std::size_t length, double steps, std::size_t count, bool as_archive) {
  RandomStream random(11, {"point tree", length, static_cast<std::uint64_t>(steps)});
  PointTree tree;
  PointList list;
  for (std::size_t k = 0; k < count; ++k) {
    const Numbers point = drawn_numbers(random, length, steps);
    const bool is_covered = list.has_at_or_below(point);
    REQUIRE(tree.has_at_or_below(point) == is_covered);
    if (as_archive ? is_covered : random.uniform() < 0.5) continue;
    if (as_archive || random.uniform() < 0.02) {
      std::vector<std::size_t> taken;
      tree.take_at_or_above(point, taken);
      std::ranges::sort(taken);
      REQUIRE(taken == list.take_at_or_above(point));
    }
    tree.add(point, k);
    list.points.emplace(k, point);
    REQUIRE(tree.size() == list.points.size());
  }
  return tree.size();
}

} // namespace

TEST_SUITE("trees of points") {
  TEST_CASE("they find and take what a look at each point would") {
    for (const std::size_t length : {2U, 3U, 5U}) {
      for (const double steps : {12.0, 1e9}) {
        CAPTURE(length);
        CAPTURE(steps);
        CHECK(compare_rounds(length, steps, 800, true) > 5);
        CHECK(compare_rounds(length, steps, 800, false) > 100); // many leaves
      }
    }
  }

  TEST_CASE("equal points, neighbouring numbers and infinities are points like others") {
    const double next = std::nextafter(1.0, 2.0), infinite = std::numeric_limits<double>::infinity();
    PointTree tree;
    std::size_t count = 0;
    for (int k = 0; k < 100; ++k)
      for (const Numbers& point : {Numbers{1, next}, Numbers{next, 1}, Numbers{1, 1}, Numbers{infinite, -infinite}})
        tree.add(point, count++);
    CHECK(tree.has_at_or_below(Numbers{1, 1}));
    CHECK_FALSE(tree.has_at_or_below(Numbers{0.5, 1}));
    std::vector<std::size_t> taken;
    tree.take_at_or_above(Numbers{1, next}, taken);
    CHECK(taken.size() == 100);
    tree.take_at_or_above(Numbers{1, 1}, taken);
    CHECK(taken.size() == 300);
    tree.take_at_or_above(Numbers{-infinite, -infinite}, taken);
    CHECK(taken.size() == 400);
    CHECK(tree.size() == 0);
    CHECK_FALSE(tree.has_at_or_below(Numbers{infinite, infinite}));
  }
}
