#include "tanzen/study/targets.hpp"

#include "tanzen/numeric/sampling.hpp"
#include "tanzen/statistics/summaries.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tanzen {
namespace {

constexpr double largest_gap = 1e12;
constexpr double gaps_in_a_decade = 3;

} // namespace

std::vector<double> gaps_from(double largest, double smallest) {
  constexpr double apart = 1 + 1e-9;
  std::vector<double> gaps;
  const double first = std::floor(gaps_in_a_decade * std::log10(std::clamp(largest, smallest, largest_gap)));
  for (double step = first;; --step) {
    const double gap = std::pow(10.0, step / gaps_in_a_decade);
    if (gap <= smallest * apart) break;
    gaps.push_back(gap);
  }
  gaps.push_back(smallest);
  return gaps;
}

std::vector<double> usual_gaps(const Problem& problem, std::uint64_t seed, double smallest) {
  constexpr Index points = 101;
  // Of a front the gap is a share of what the true one covers: a hundredth is what the literature's methods come to.
  constexpr double usual_smallest = 1e-7, smallest_of_front = 1e-2;
  if (problem.objectives().size() > 1) return gaps_from(1, smallest > usual_smallest ? smallest : smallest_of_front);
  double first = 1e2;
  if (problem.objective().derivatives() != Derivatives::none) {
    const Matrix sample =
        uniform_points(problem.sampling_box(), points, RandomStream(seed, {"targets", problem.name()}));
    Vector values;
    problem.objective().worker()->values(sample, values);
    std::vector<double> gaps;
    for (const double value : values) {
      const double gap = problem.sign() * (value - *problem.best_known());
      gaps.push_back(std::isnan(gap) ? std::numeric_limits<double>::infinity() : gap);
    }
    first = median(gaps);
  }
  return gaps_from(first, smallest);
}

} // namespace tanzen
