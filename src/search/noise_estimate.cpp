#include "tanzen/search/noise_estimate.hpp"

#include "tanzen/statistics/noise_level.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen {

NoiseEstimate estimate_noise(const std::function<double(const Vector&)>& value, const Vector& at, const Vector& sizes,
                             RandomStream random) {
  constexpr Index count = 9, most_tries = 5;
  constexpr double change = 100, alike = 4;
  Vector direction(at.size());
  random.fill_normal(direction);
  direction = direction.normalized().cwiseProduct(at.cwiseAbs().cwiseMax(sizes));
  NoiseEstimate result{.spacing = 1e-6};
  double before = 0; // what the last spacing said, if the function might have been in it
  Vector values(count);
  for (Index tries = 0; tries < most_tries; ++tries) {
    for (Index k = 0; k < count; ++k) {
      values[k] = value(at + (static_cast<double>(k - count / 2) * result.spacing) * direction);
      ++result.evaluations;
    }
    result.value = values[count / 2];
    if (!values.allFinite()) {
      result.spacing /= change;
      continue;
    }
    const NoiseLevel seen = noise_level(values);
    const bool agrees =
        before > 0 && seen.level > 0 && std::max(before, seen.level) <= alike * std::min(before, seen.level);
    if (seen.verdict == NoiseLevel::Verdict::found || agrees) {
      result.found = true;
      result.level = seen.level;
      return result;
    }
    before = seen.level;
    result.spacing *= seen.verdict == NoiseLevel::Verdict::spacing_too_small ? change : 1 / change;
  }
  // Not one value differs from the others: there is no noise to be seen.
  result.found = (values.array() == values[0]).all();
  return result;
}

NoiseEstimate estimate_noise(const Problem& problem, const Vector& at, RandomStream random) {
  const auto worker = problem.unheard().objective().worker();
  return estimate_noise([&](const Vector& x) { return worker->value(x); }, at, problem.typical_sizes(), random);
}

} // namespace tanzen
