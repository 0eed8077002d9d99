#include "tanzen/analysis/sample.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/statistics/fronts.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace tanzen {
namespace {

constexpr double feasible = 1e-6; // as in a run without another tolerance

Matrix drawn_points(const Box& box, Index count, Sampling sampling, std::uint64_t seed) {
  const RandomStream random(seed, {"sample"});
  switch (sampling) {
  case Sampling::uniform: return uniform_points(box, count, random);
  case Sampling::latin_hypercube: return latin_hypercube_points(box, count, random);
  case Sampling::sobol: break;
  }
  return sobol_points(box, count, random);
}

/// The parts of a plain problem by the short way, which knows the fits' sums too.
Matrix objectives_at(const Problem& problem, const Matrix& parts, const Matrix& points) {
  if (!problem.objectives().empty()) return parts.topRows(static_cast<Index>(problem.objectives().size()));
  Vector values;
  problem.objective().worker()->values(points, values);
  return values.transpose();
}

void rank(const Problem& problem, Sample& sample) {
  Matrix minimized = sample.objectives;
  for (std::size_t k = 0; k < problem.objectives().size(); ++k)
    minimized.row(static_cast<Index>(k)) *= sign_of(problem.objectives()[k].sense);
  std::vector<Index> counting;
  sample.ranks.assign(static_cast<std::size_t>(minimized.cols()), -1);
  for (Index k = 0; k < minimized.cols(); ++k)
    if (minimized.col(k).allFinite() && sample.violations[k] <= feasible) counting.push_back(k);
  const auto ranks = nondominated_ranks(minimized(Eigen::all, counting));
  for (std::size_t k = 0; k < counting.size(); ++k) sample.ranks[static_cast<std::size_t>(counting[k])] = ranks[k];
  if (minimized.rows() > 1) return;
  for (Index k = 0; k < minimized.cols(); ++k) {
    if (!minimized.col(k).allFinite() || std::isnan(sample.violations[k])) continue;
    const double broken = std::max(0.0, sample.violations[k] - feasible);
    const double least = sample.best ? std::max(0.0, sample.violations[*sample.best] - feasible) : 0;
    const bool is_better =
        !sample.best || broken < least || (broken == least && minimized(0, k) < minimized(0, *sample.best));
    if (is_better) sample.best = k;
  }
}

} // namespace

Sampling parse_sampling(std::string_view word) {
  const std::vector<std::string> words{"uniform", "latin-hypercube", "sobol"};
  const auto found = std::ranges::find(words, word);
  if (found == words.end())
    throw InputError(fmt::format("--sampling must be one of {}; found '{}'{}", joined(words, ", "), clipped(word, 40),
                                 did_you_mean(word, words)));
  return static_cast<Sampling>(found - words.begin()); // in the order of the enumeration
}

Sample draw_sample(const Problem& problem, Index count, Sampling sampling, std::uint64_t seed) {
  Sample sample{.points = drawn_points(problem.sampling_box(), count, sampling, seed)};
  Matrix parts;
  problem.bundle()->worker()->outputs(sample.points, parts);
  sample.objectives = objectives_at(problem, parts, sample.points).unaryExpr([](double value) {
    return std::isfinite(value) ? value : std::numeric_limits<double>::quiet_NaN();
  });
  sample.violations.setZero(count);
  for (Index k = 0; k < count && !problem.constraints().empty(); ++k) {
    const Vector own = parts.col(k);
    sample.violations[k] = violation_of(problem.constraints(), Evaluation(own, problem.parts()).constraints());
  }
  rank(problem, sample);
  return sample;
}

} // namespace tanzen
