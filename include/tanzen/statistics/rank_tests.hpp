#pragma once

#include "tanzen/numeric/vector.hpp"

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

namespace tanzen {

/// A column as plain numbers, valid as long as the matrix.
[[nodiscard]] inline std::span<const double> column_of(const Matrix& matrix, Index column) {
  return {matrix.col(column).data(), static_cast<std::size_t>(matrix.rows())};
}

/// What a test came to. `p` is two-sided.
struct RankTest {
  double statistic = 0;
  double p = 1;
  bool is_exact = false; ///< from all arrangements, not from the normal or chi-squared distribution
};

/// Wilcoxon's rank-sum test of two independent samples (Wilcoxon, 1945; Mann and Whitney, 1947). The statistic is the
/// sum of the first sample's ranks. Equal values share their mean rank; infinite ones are equal to each other. Up to 40
/// values in all p is exact, given the ties, by counting all arrangements; beyond, normal with the variance corrected
/// for ties. p is 1 where a sample is empty.
[[nodiscard]] RankTest rank_sum_test(std::span<const double> first, std::span<const double> second);

/// Wilcoxon's signed-rank test of paired values (Wilcoxon, 1945). The statistic is the sum of the ranks of the pairs
/// where the first is larger. Pairs without a difference are left out, two infinite values among them; the difference
/// to one infinite value is larger than any finite one. Up to 50 pairs p is exact, given the ties; beyond, normal.
[[nodiscard]] RankTest signed_rank_test(std::span<const double> first, std::span<const double> second);

/// Friedman's test of several methods over the same blocks (Friedman, 1937), corrected for ties.
struct FriedmanTest {
  std::vector<double> mean_ranks = {}; ///< of each method, 1 the smallest value
  double statistic = 0;                ///< chi-squared with one degree of freedom fewer than methods
  double p = 1;
};

/// `values` holds a row a block and a column a method; requires at least one of each. Infinite values rank last, alike.
[[nodiscard]] FriedmanTest friedman_test(const Matrix& values);

/// The difference of two mean ranks over so many blocks that is significant at `level` when all pairs are compared
/// (Nemenyi, 1963; Demšar, 2006, section 3.2.2). Requires at least two methods. To four digits.
[[nodiscard]] double critical_distance(Index methods, Index blocks, double level = 0.05);

/// The groups of methods whose mean ranks all lie within a distance of each other, as large as they can be (the bars of
/// Demšar, 2006, figure 1): places of the methods, the best first; groups of one are left out.
[[nodiscard]] std::vector<std::vector<std::size_t>> rank_cliques(std::span<const double> ranks, double distance);

/// Values of p adjusted for being several (Holm, 1979), in the order given: each may be compared with the level itself.
[[nodiscard]] std::vector<double> holm_adjusted(std::span<const double> p);

/// The chance that a value of the first sample is smaller than one of the second, ties counted half (Vargha and
/// Delaney, 2000, as for values where small is good): 0.5 is no difference, above 0.71 a large one. Requires values in
/// both.
[[nodiscard]] double chance_of_smaller(std::span<const double> first, std::span<const double> second);

/// Of paired values, how often the first is smaller, equal, larger.
struct WinsTiesLosses {
  std::int64_t wins = 0, ties = 0, losses = 0;
};
[[nodiscard]] WinsTiesLosses wins_ties_losses(std::span<const double> first, std::span<const double> second);

} // namespace tanzen
