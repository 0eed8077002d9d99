#include "tanzen/statistics/noise_level.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <vector>

namespace tanzen {
namespace {

/// Whether the first three levels from `k` on agree to a factor of four, and the differences take both signs: what
/// noise does and a smooth function does not.
bool agree(const Vector& levels, const std::vector<bool>& both_signs, Index k) {
  constexpr double factor = 4;
  const auto three = levels.segment(k, 3);
  return three.minCoeff() > 0 && three.maxCoeff() <= factor * three.minCoeff() &&
         both_signs[static_cast<std::size_t>(k)];
}

} // namespace

NoiseLevel noise_level(const Vector& values) {
  const Index count = values.size();
  assert(count >= 4 && values.allFinite());
  NoiseLevel result;
  result.levels.resize(count - 1);
  const double largest = values.cwiseAbs().maxCoeff(), range = values.maxCoeff() - values.minCoeff();
  Vector differences = values;
  std::vector<bool> both_signs;
  double gamma = 1; // (k!)^2 / (2k)!
  Index equal = 0;
  for (Index k = 1; k < count; ++k) {
    const Index left = count - k;
    for (Index i = 0; i < left; ++i) differences[i] = differences[i + 1] - differences[i];
    const auto column = differences.head(left);
    if (k == 1) equal = (column.array() == 0).count();
    const auto order = static_cast<double>(k);
    gamma *= 0.5 * order / (2 * order - 1);
    result.levels[k - 1] = std::sqrt(gamma * column.squaredNorm() / static_cast<double>(left));
    both_signs.push_back(column.minCoeff() < 0 && column.maxCoeff() > 0);
  }
  constexpr double most_range = 0.1; // of the largest value: beyond it the function hides its noise
  if (2 * equal >= count - 1) {
    result.verdict = NoiseLevel::Verdict::spacing_too_small;
    return result;
  }
  result.verdict = NoiseLevel::Verdict::spacing_too_large; // levels that still fall are the function's
  for (Index k = 0; k + 3 <= result.levels.size(); ++k) {
    if (!agree(result.levels, both_signs, k)) continue;
    result.level = result.levels[k];
    if (range <= most_range * largest) result.verdict = NoiseLevel::Verdict::found;
    break;
  }
  return result;
}

} // namespace tanzen
