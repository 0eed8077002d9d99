#include "tanzen/statistics/rank_tests.hpp"

#include "tanzen/statistics/distributions.hpp"
#include "tanzen/statistics/summaries.hpp"

#include <algorithm>
#include <boost/math/quadrature/gauss_kronrod.hpp>
#include <boost/math/tools/roots.hpp>
#include <cassert>
#include <cmath>
#include <numbers>
#include <numeric>

namespace tanzen {
namespace {

double normal_density(double x) {
  return std::exp(-0.5 * x * x) / std::sqrt(2 * std::numbers::pi);
}

double normal_chance(double x) {
  return 0.5 * std::erfc(-x / std::numbers::sqrt2);
}

/// Twice the ranks, which mean ranks make whole.
std::vector<std::size_t> doubled(const std::vector<double>& ranks) {
  std::vector<std::size_t> whole;
  for (const double rank : ranks) whole.push_back(static_cast<std::size_t>(std::lround(2 * rank)));
  return whole;
}

/// The part of the arrangements, given by how many there are of each sum, that lie as far from the mean as `seen`.
double two_sided(const std::vector<double>& counts, double mean, double seen) {
  const double away = std::abs(seen - mean) - 1e-9;
  double all = 0, far = 0;
  for (std::size_t sum = 0; sum < counts.size(); ++sum) {
    all += counts[sum];
    if (std::abs(static_cast<double>(sum) - mean) >= away) far += counts[sum];
  }
  return std::min(1.0, far / all);
}

/// p of a normal statistic, with half a step taken off for its being whole.
double normal_p(double statistic, double mean, double variance) {
  if (!(variance > 0)) return 1;
  const double away = std::max(0.0, std::abs(statistic - mean) - 0.5) / std::sqrt(variance);
  return std::min(1.0, 2 * normal_chance(-away));
}

/// The sum over groups of equal ranks of t^3 - t.
double tie_sum(std::vector<double> ranks) {
  std::ranges::sort(ranks);
  double sum = 0;
  for (std::size_t first = 0; first < ranks.size();) {
    std::size_t last = first;
    while (last < ranks.size() && ranks[last] == ranks[first]) ++last;
    const auto t = static_cast<double>(last - first);
    sum += t * t * t - t;
    first = last;
  }
  return sum;
}

/// What numbers that are equal but for rounding differ by, relative to them: mean ranks divided by repeats are such.
constexpr double rounding = 1e-12;

/// Positive numbers, with those that differ by rounding alone made equal.
std::vector<double> with_ties(std::vector<double> sizes) {
  std::vector<std::size_t> order(sizes.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::ranges::sort(order, {}, [&](std::size_t k) { return sizes[k]; });
  for (std::size_t k = 1; k < order.size(); ++k) {
    double &size = sizes[order[k]], before = sizes[order[k - 1]];
    if (std::isfinite(size) && size - before <= rounding * size) size = before;
  }
  return sizes;
}

/// The chance that the range of `count` standard normal numbers is below q.
double range_chance(double q, double count) {
  const auto integrand = [&](double z) {
    return count * normal_density(z) * std::pow(normal_chance(z) - normal_chance(z - q), count - 1);
  };
  return boost::math::quadrature::gauss_kronrod<double, 61>::integrate(integrand, -8.0, 8.0 + q, 8, 1e-10);
}

} // namespace

RankTest rank_sum_test(std::span<const double> first, std::span<const double> second) {
  constexpr std::size_t most_exact = 40;
  if (first.empty() || second.empty()) return {};
  std::vector<double> all(first.begin(), first.end());
  all.insert(all.end(), second.begin(), second.end());
  const std::vector<double> ranks = mean_ranks(all);
  const auto n = static_cast<double>(first.size()), m = static_cast<double>(second.size()), total = n + m;
  RankTest test{.statistic =
                    std::accumulate(ranks.begin(), ranks.begin() + static_cast<std::ptrdiff_t>(first.size()), 0.0)};
  const double mean = n * (total + 1) / 2;
  if (all.size() > most_exact) {
    const double variance = n * m / 12 * (total + 1 - tie_sum(ranks) / (total * (total - 1)));
    test.p = normal_p(test.statistic, mean, variance);
    return test;
  }
  // How many choices of so many ranks have each sum.
  const std::vector<std::size_t> whole = doubled(ranks);
  const std::size_t most = std::accumulate(whole.begin(), whole.end(), std::size_t{0});
  std::vector<std::vector<double>> counts(first.size() + 1, std::vector<double>(most + 1, 0));
  counts[0][0] = 1;
  for (const std::size_t rank : whole) {
    for (std::size_t chosen = first.size(); chosen >= 1; --chosen) {
      for (std::size_t sum = most; sum >= rank; --sum) counts[chosen][sum] += counts[chosen - 1][sum - rank];
    }
  }
  test.p = two_sided(counts.back(), 2 * mean, 2 * test.statistic);
  test.is_exact = true;
  return test;
}

RankTest signed_rank_test(std::span<const double> first, std::span<const double> second) {
  constexpr std::size_t most_exact = 50;
  assert(first.size() == second.size());
  std::vector<double> sizes;
  std::vector<bool> is_larger;
  for (std::size_t k = 0; k < first.size(); ++k) {
    const double size = std::abs(first[k] - second[k]);
    if (first[k] == second[k] ||
        (std::isfinite(size) && size <= rounding * std::max(std::abs(first[k]), std::abs(second[k]))))
      continue;
    sizes.push_back(size);
    is_larger.push_back(first[k] > second[k]);
  }
  if (sizes.empty()) return {};
  const std::vector<double> ranks = mean_ranks(with_ties(std::move(sizes)));
  RankTest test;
  for (std::size_t k = 0; k < ranks.size(); ++k) test.statistic += is_larger[k] ? ranks[k] : 0;
  const auto n = static_cast<double>(ranks.size());
  const double mean = n * (n + 1) / 4;
  if (ranks.size() > most_exact) {
    test.p = normal_p(test.statistic, mean, n * (n + 1) * (2 * n + 1) / 24 - tie_sum(ranks) / 48);
    return test;
  }
  // How many choices of signs have each sum.
  const std::vector<std::size_t> whole = doubled(ranks);
  const std::size_t most = std::accumulate(whole.begin(), whole.end(), std::size_t{0});
  std::vector<double> counts(most + 1, 0);
  counts[0] = 1;
  for (const std::size_t rank : whole) {
    for (std::size_t sum = most; sum >= rank; --sum) counts[sum] += counts[sum - rank];
  }
  test.p = two_sided(counts, 2 * mean, 2 * test.statistic);
  test.is_exact = true;
  return test;
}

FriedmanTest friedman_test(const Matrix& values) {
  const auto blocks = static_cast<double>(values.rows()), methods = static_cast<double>(values.cols());
  assert(values.rows() > 0 && values.cols() > 0);
  FriedmanTest test;
  test.mean_ranks.assign(static_cast<std::size_t>(values.cols()), 0);
  double squares = 0; // of all ranks
  for (Index block = 0; block < values.rows(); ++block) {
    const Vector row = values.row(block);
    const std::vector<double> ranks = mean_ranks(std::span(row.data(), static_cast<std::size_t>(row.size())));
    for (std::size_t m = 0; m < ranks.size(); ++m) {
      test.mean_ranks[m] += ranks[m] / blocks;
      squares += ranks[m] * ranks[m];
    }
  }
  // Conover, 1999, section 5.8: the form that ties leave valid.
  const double spread = squares - blocks * methods * (methods + 1) * (methods + 1) / 4;
  if (!(spread > 0) || methods < 2) return test;
  double sum = 0;
  for (const double mean : test.mean_ranks) sum += std::pow(blocks * (mean - (methods + 1) / 2), 2);
  test.statistic = (methods - 1) * sum / spread;
  test.p = chi_squared_tail(methods - 1, test.statistic);
  return test;
}

double critical_distance(Index methods, Index blocks, double level) {
  assert(methods >= 2 && blocks >= 1 && level > 0 && level < 1);
  const auto k = static_cast<double>(methods);
  const auto excess = [&](double q) { return range_chance(q, k) - (1 - level); };
  boost::math::tools::eps_tolerance<double> enough(30);
  std::uintmax_t most = 100;
  const auto [low, high] = boost::math::tools::toms748_solve(excess, 0.01, 20.0, enough, most);
  const double q = 0.5 * (low + high) / std::numbers::sqrt2;
  return q * std::sqrt(k * (k + 1) / (6 * static_cast<double>(blocks)));
}

std::vector<std::vector<std::size_t>> rank_cliques(std::span<const double> ranks, double distance) {
  std::vector<std::size_t> order(ranks.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::ranges::stable_sort(order, {}, [&](std::size_t k) { return ranks[k]; });
  std::vector<std::vector<std::size_t>> cliques;
  std::size_t covered = 0; // the end of the last group: one that ends no later lies within it
  for (std::size_t first = 0; first < order.size(); ++first) {
    std::size_t end = first + 1;
    while (end < order.size() && ranks[order[end]] - ranks[order[first]] <= distance) ++end;
    if (end <= covered) continue;
    covered = end;
    if (end - first > 1)
      cliques.emplace_back(order.begin() + static_cast<std::ptrdiff_t>(first),
                           order.begin() + static_cast<std::ptrdiff_t>(end));
  }
  return cliques;
}

std::vector<double> holm_adjusted(std::span<const double> p) {
  std::vector<std::size_t> order(p.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::ranges::stable_sort(order, {}, [&](std::size_t k) { return p[k]; });
  std::vector<double> adjusted(p.size());
  double largest = 0;
  for (std::size_t place = 0; place < order.size(); ++place) {
    const auto left = static_cast<double>(p.size() - place);
    largest = std::max(largest, std::min(1.0, left * p[order[place]]));
    adjusted[order[place]] = largest;
  }
  return adjusted;
}

double chance_of_smaller(std::span<const double> first, std::span<const double> second) {
  assert(!first.empty() && !second.empty());
  double sum = 0;
  for (const double a : first) {
    for (const double b : second) sum += a < b ? 1 : a == b ? 0.5 : 0;
  }
  return sum / static_cast<double>(first.size() * second.size());
}

WinsTiesLosses wins_ties_losses(std::span<const double> first, std::span<const double> second) {
  assert(first.size() == second.size());
  WinsTiesLosses count;
  for (std::size_t k = 0; k < first.size(); ++k)
    ++(first[k] < second[k] ? count.wins : first[k] == second[k] ? count.ties : count.losses);
  return count;
}

} // namespace tanzen
