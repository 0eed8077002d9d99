#include "tanzen/numeric/random.hpp"
#include "tanzen/statistics/rank_tests.hpp"
#include "tanzen/statistics/summaries.hpp"

#include <doctest/doctest.h>

#include <bit>
#include <cmath>

using namespace tanzen;

namespace {

/// The rank-sum test's p by enumeration of all choices of the first sample among all values.
double enumerated_rank_sum(const std::vector<double>& first, const std::vector<double>& second) {
  std::vector<double> all = first;
  all.insert(all.end(), second.begin(), second.end());
  const std::vector<double> ranks = mean_ranks(all);
  const double mean = static_cast<double>(first.size() * (all.size() + 1)) / 2;
  double seen = 0;
  for (std::size_t k = 0; k < first.size(); ++k) seen += ranks[k];
  int far = 0, choices = 0;
  for (unsigned mask = 0; mask < (1U << all.size()); ++mask) {
    if (static_cast<std::size_t>(std::popcount(mask)) != first.size()) continue;
    double sum = 0;
    for (std::size_t k = 0; k < all.size(); ++k) sum += (mask >> k & 1U) != 0 ? ranks[k] : 0;
    far += std::abs(sum - mean) >= std::abs(seen - mean) - 1e-9 ? 1 : 0;
    ++choices;
  }
  return static_cast<double>(far) / choices;
}

/// The signed-rank test's p by enumeration of all signs.
double enumerated_signed_rank(const std::vector<double>& differences) {
  std::vector<double> sizes;
  for (const double d : differences) {
    if (d != 0) sizes.push_back(std::abs(d));
  }
  const std::vector<double> ranks = mean_ranks(sizes);
  const double mean = static_cast<double>(sizes.size() * (sizes.size() + 1)) / 4;
  double seen = 0;
  std::size_t place = 0;
  for (const double d : differences) {
    if (d != 0) seen += d > 0 ? ranks[place++] : (++place, 0.0);
  }
  int far = 0;
  const unsigned all = 1U << sizes.size();
  for (unsigned mask = 0; mask < all; ++mask) {
    double sum = 0;
    for (std::size_t k = 0; k < sizes.size(); ++k) sum += (mask >> k & 1U) != 0 ? ranks[k] : 0;
    far += std::abs(sum - mean) >= std::abs(seen - mean) - 1e-9 ? 1 : 0;
  }
  return static_cast<double>(far) / all;
}

std::vector<double> drawn_in_steps(RandomStream& random, int count, double step) {
  std::vector<double> values;
  for (int k = 0; k < count; ++k) values.push_back(step * std::round(random.normal() / step));
  return values;
}

} // namespace

TEST_SUITE("rank tests") {
  TEST_CASE("the rank-sum test's exact p is that of enumerating all arrangements, with ties and without") {
    RandomStream random(1, {"test"});
    for (const double step : {1e-9, 0.5, 2.0}) {
      for (const auto& [n, m] : {std::pair{3, 4}, std::pair{5, 5}, std::pair{1, 6}, std::pair{6, 7}}) {
        const auto a = drawn_in_steps(random, n, step), b = drawn_in_steps(random, m, step);
        const RankTest test = rank_sum_test(a, b);
        CHECK(test.is_exact);
        CHECK(test.p == doctest::Approx(enumerated_rank_sum(a, b)).epsilon(1e-12));
      }
    }
  }

  TEST_CASE("two samples that do not overlap have the least p there is: 2 of 252 arrangements of five and five") {
    const double low[] = {1, 2, 3, 4, 5}, high[] = {6, 7, 8, 9, 10};
    CHECK(rank_sum_test(low, high).statistic == 15);
    CHECK(rank_sum_test(low, high).p == doctest::Approx(2.0 / 252));
    CHECK(rank_sum_test(low, low).p == 1);
    CHECK(rank_sum_test({}, low).p == 1);
  }

  TEST_CASE("failures are ranked last, alike, and never dropped") {
    const double some[] = {10, 20, INFINITY, INFINITY}, none[] = {INFINITY, INFINITY, INFINITY, INFINITY};
    CHECK(rank_sum_test(some, none).statistic == 1 + 2 + 2 * 5.5);
    CHECK(chance_of_smaller(some, none) == 0.75);
    const auto counts = wins_ties_losses(some, none);
    CHECK(counts.wins == 2);
    CHECK(counts.ties == 2);
    CHECK(counts.losses == 0);
  }

  TEST_CASE("the signed-rank test's exact p is that of enumerating all signs") {
    RandomStream random(2, {"test"});
    for (const double step : {1e-9, 0.5}) {
      for (const int n : {1, 4, 9, 12}) {
        const auto a = drawn_in_steps(random, n, step), b = drawn_in_steps(random, n, step);
        std::vector<double> differences;
        for (std::size_t k = 0; k < a.size(); ++k) differences.push_back(a[k] - b[k]);
        const RankTest test = signed_rank_test(a, b);
        CHECK(test.p == doctest::Approx(enumerated_signed_rank(differences)).epsilon(1e-12));
      }
    }
    // All of eight pairs fall: 2 of 256.
    const double before[] = {8, 7, 9, 6, 8, 9, 7, 8}, after[] = {1, 1.5, 0.9, 1.2, 1.1, 1.4, 0.8, 1.3};
    CHECK(signed_rank_test(before, after).p == doctest::Approx(2.0 / 256));
    CHECK(signed_rank_test(before, before).p == 1);
  }

  TEST_CASE("a pair with one failure counts as the largest difference") {
    const double first[] = {1, 2, 3, INFINITY, INFINITY}, second[] = {1.5, 2.1, 2.8, 4, INFINITY};
    // Differences -0.5, -0.1, 0.2, infinity, none: ranks 3, 1, 2, 4.
    CHECK(signed_rank_test(first, second).statistic == 2 + 4);
  }

  TEST_CASE("for large samples the normal distribution is near the exact p") {
    RandomStream random(3, {"test"});
    const auto a = drawn_in_steps(random, 20, 1e-9), b = drawn_in_steps(random, 20, 1e-9);
    auto more_a = a, more_b = b;
    more_a.push_back(0.4);
    CHECK(rank_sum_test(a, b).is_exact);
    CHECK_FALSE(rank_sum_test(more_a, b).is_exact);
    CHECK(rank_sum_test(more_a, b).p == doctest::Approx(rank_sum_test(a, b).p).epsilon(0.25));
    for (int k = 0; k < 31; ++k) {
      more_a.push_back(random.normal());
      more_b.push_back(random.normal());
    }
    more_b.push_back(0);
    const RankTest far = signed_rank_test(more_a, more_b);
    CHECK_FALSE(far.is_exact);
    CHECK(far.p > 0);
    CHECK(far.p <= 1);
  }

  TEST_CASE("Friedman's test is that of the worked example") {
    // Four methods over six blocks without ties: rank sums 8, 13, 16, 23 by hand.
    Matrix values(6, 4);
    values << 1, 2, 3, 4, //
        1, 3, 2, 4,       //
        2, 1, 3, 4,       //
        1, 2, 3, 4,       //
        1, 4, 2, 3,       //
        2, 1, 3, 4;
    const FriedmanTest test = friedman_test(values);
    CHECK(test.mean_ranks[0] == doctest::Approx(8.0 / 6));
    CHECK(test.mean_ranks[3] == doctest::Approx(23.0 / 6));
    // 12/(b k (k+1)) sum R^2 - 3 b (k+1), with R = 8, 13, 16, 23.
    const double expected = 12.0 / (6 * 4 * 5) * (64 + 169 + 256 + 529) - 3 * 6 * 5;
    CHECK(test.statistic == doctest::Approx(expected));
    // The chi-squared distribution with three degrees of freedom in closed form.
    const double x = test.statistic;
    CHECK(test.p ==
          doctest::Approx(std::erfc(std::sqrt(x / 2)) + std::sqrt(2 * x / 3.141592653589793) * std::exp(-x / 2)));
    CHECK(friedman_test(Matrix::Constant(5, 3, 1)).p == 1);
  }

  TEST_CASE("critical distances are those of the table") {
    // Demšar, 2006, table 5: q at 0.05 is 1.960 for two methods, 2.343 for three, 2.728 for five, 3.164 for ten.
    const auto q = [](Index methods) {
      const auto k = static_cast<double>(methods);
      return critical_distance(methods, 1) / std::sqrt(k * (k + 1) / 6);
    };
    CHECK(q(2) == doctest::Approx(1.960).epsilon(5e-4));
    CHECK(q(3) == doctest::Approx(2.343).epsilon(5e-4));
    CHECK(q(5) == doctest::Approx(2.728).epsilon(5e-4));
    CHECK(q(10) == doctest::Approx(3.164).epsilon(5e-4));
    CHECK(critical_distance(4, 14, 0.1) == doctest::Approx(2.291 * std::sqrt(4 * 5 / (6.0 * 14))).epsilon(5e-4));
  }

  TEST_CASE("cliques are the longest groups within the distance, the best method first, none alone") {
    using Cliques = std::vector<std::vector<std::size_t>>;
    const std::vector<double> ranks{3.0, 1.0, 1.8, 4.0};
    CHECK(rank_cliques(ranks, 1.2) == Cliques{{1, 2}, {2, 0}, {0, 3}});
    CHECK(rank_cliques(ranks, 2.0) == Cliques{{1, 2, 0}, {0, 3}});
    CHECK(rank_cliques(ranks, 2.2) == Cliques{{1, 2, 0}, {2, 0, 3}});
    CHECK(rank_cliques(ranks, 3.0) == Cliques{{1, 2, 0, 3}});
    CHECK(rank_cliques(ranks, 0.5).empty());
  }

  TEST_CASE("Holm's adjustment multiplies by how many are left, and never falls") {
    const double p[] = {0.01, 0.04, 0.03, 0.005};
    const auto adjusted = holm_adjusted(p);
    CHECK(adjusted[3] == doctest::Approx(0.02));
    CHECK(adjusted[0] == doctest::Approx(0.03));
    CHECK(adjusted[2] == doctest::Approx(0.06));
    CHECK(adjusted[1] == doctest::Approx(0.06));
    CHECK(holm_adjusted({}).empty());
  }

  TEST_CASE("the chance of a smaller value counts pairs") {
    const double a[] = {1, 2}, b[] = {2, 3, 0};
    // Pairs: 1<2, 1<3, 1>0, 2=2, 2<3, 2>0.
    CHECK(chance_of_smaller(a, b) == doctest::Approx(3.5 / 6));
    CHECK(chance_of_smaller(b, a) == doctest::Approx(2.5 / 6));
  }

  TEST_CASE("differences that are equal but for rounding are ties") {
    // Mean ranks of six problems, divided by 3: the differences 1/3, 2/3 and 1 come out with different last bits.
    std::vector<double> exact_first, exact_second, first, second;
    for (const int difference : {1, 1, -1, 2, 2, 1}) {
      exact_first.push_back(10 + difference);
      exact_second.push_back(10);
      first.push_back((10.0 + difference) / 3 + 0.1 * static_cast<double>(first.size()));
      second.push_back(10.0 / 3 + 0.1 * static_cast<double>(second.size()));
    }
    const RankTest whole = signed_rank_test(exact_first, exact_second), rounded = signed_rank_test(first, second);
    CHECK(rounded.statistic == whole.statistic);
    CHECK(rounded.p == doctest::Approx(whole.p).epsilon(1e-12));
    const std::vector<double> a{0.1 + 0.2, 1}, b{0.3, 1};
    CHECK(signed_rank_test(a, b).p == 1); // 0.1 + 0.2 and 0.3 are one number
  }

  TEST_CASE("an interval of no success begins at 0, and of nothing else ends at 1, to the bit") {
    for (const std::int64_t trials : {1, 2, 7, 21, 100, 12345}) {
      CHECK(wilson_interval(0, trials).lower == 0);
      CHECK(wilson_interval(trials, trials).upper == 1);
      CHECK(wilson_interval(0, trials).upper > 0);
      CHECK(wilson_interval(trials, trials).lower < 1);
    }
  }
}
