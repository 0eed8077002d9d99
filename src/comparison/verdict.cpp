#include "tanzen/comparison/verdict.hpp"

#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// `a, b and c`
std::string listed(const std::vector<std::string>& names) {
  if (names.size() < 2) return joined(names, "");
  const std::vector<std::string> but_last(names.begin(), names.end() - 1);
  return joined(but_last, ", ") + " and " + names.back();
}

std::string stated_p(double p) {
  return p < 0.001 ? fmt::format("{:.1e}", p) : fmt::format("{:.3f}", p);
}

/// From which methods the data separate the first one, and from which they do not.
class Separation {
 public:
  explicit Separation(double level) : level_(level) {}

  void add(const std::string& method, double p) {
    const bool is_apart = p <= level_;
    (is_apart ? apart_ : together_).push_back(method);
    if (is_apart) most_p_ = std::max(most_p_, p);
    if (!is_apart) least_p_ = std::min(least_p_, p);
  }

  [[nodiscard]] std::string text() const {
    std::string text;
    if (!apart_.empty())
      text += fmt::format("; the data separate it from {} (p at most {})", listed(apart_), stated_p(most_p_));
    if (!together_.empty())
      text += fmt::format("; {} do not separate it from {} (p at least {})", apart_.empty() ? "the data" : "they",
                          listed(together_), stated_p(least_p_));
    return text;
  }

 private:
  double level_;
  std::vector<std::string> apart_, together_;
  double most_p_ = 0, least_p_ = 1;
};

} // namespace

ProblemVerdict verdict_on(const ProblemComparison& comparison) {
  const auto& rows = comparison.rows;
  ProblemVerdict verdict;
  verdict.first =
      static_cast<std::size_t>(std::ranges::min_element(rows, {}, &ComparisonRow::mean_rank) - rows.begin());
  // Which method comes first was not known before: all pairs count, not only those with it.
  struct Pair {
    std::size_t a, b;
  };
  std::vector<Pair> pairs_of_methods;
  std::vector<double> p;
  for (std::size_t a = 0; a < rows.size(); ++a) {
    for (std::size_t b = a + 1; b < rows.size(); ++b) {
      pairs_of_methods.push_back({a, b});
      p.push_back(signed_rank_test(column_of(comparison.keys, static_cast<Index>(a)),
                                   column_of(comparison.keys, static_cast<Index>(b)))
                      .p);
    }
  }
  const std::vector<double> adjusted = holm_adjusted(p);
  for (std::size_t k = 0; k < adjusted.size(); ++k) {
    const auto [a, b] = pairs_of_methods[k];
    if (a != verdict.first && b != verdict.first) continue;
    const std::size_t other = a == verdict.first ? b : a;
    verdict.pairs.push_back({.other = other,
                             .p = adjusted[k],
                             .count = wins_ties_losses(column_of(comparison.keys, static_cast<Index>(verdict.first)),
                                                       column_of(comparison.keys, static_cast<Index>(other)))});
  }
  const auto repeats = static_cast<double>(comparison.keys.rows()), pairs = static_cast<double>(p.size());
  verdict.least_p = std::min(1.0, pairs * std::pow(2.0, 1 - repeats));
  return verdict;
}

std::string verdict_text(const ProblemComparison& comparison, double level) {
  if (comparison.rows.size() < 2) return "";
  const ProblemVerdict verdict = verdict_on(comparison);
  const std::string& first = comparison.rows[verdict.first].method;
  if (verdict.least_p > level) {
    return fmt::format("{}: {} comes first, but {} are too few for any difference to be significant at {}",
                       comparison.problem, first, counted(comparison.keys.rows(), "repeat"), number_text(level));
  }
  Separation separation(level);
  for (const PairVerdict& pair : verdict.pairs) separation.add(comparison.rows[pair.other].method, pair.p);
  return fmt::format("{}: {} comes first{}", comparison.problem, first, separation.text());
}

std::string verdict_text(const GroupComparison& comparison, double level) {
  if (comparison.rows.size() < 2 || comparison.problems < 2) return "";
  const auto& rows = comparison.rows;
  const std::string over =
      fmt::format("{}, {}", comparison.group, counted(static_cast<long long>(comparison.problems), "problem"));
  const GroupRow& first = rows[comparison.first];
  if (comparison.friedman.p > level) {
    return fmt::format(
        "{}: {} has the best mean rank, {:.2f}, but the data do not separate the methods (Friedman's test, "
        "p {})",
        over, first.method, first.mean_rank, stated_p(comparison.friedman.p));
  }
  if (comparison.least_p > level) {
    const auto methods = static_cast<double>(rows.size());
    const double pairs = methods * (methods - 1) / 2;
    return fmt::format(
        "{}: the methods differ (Friedman's test, p {}); {} has the best mean rank, {:.2f}, but {:.0f} problems "
        "would be needed to tell pairs of {} methods apart",
        over, stated_p(comparison.friedman.p), first.method, first.mean_rank, std::ceil(1 + std::log2(pairs / level)),
        rows.size());
  }
  Separation separation(level);
  for (std::size_t m = 0; m < rows.size(); ++m) {
    if (m != comparison.first) separation.add(rows[m].method, rows[m].p_to_first);
  }
  return fmt::format("{}: the methods differ (Friedman's test, p {}); {} comes first, with a mean rank of {:.2f}{}",
                     over, stated_p(comparison.friedman.p), first.method, first.mean_rank, separation.text());
}

} // namespace tanzen
