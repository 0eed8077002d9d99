#include "lagrangian_ranking.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

namespace tanzen::methods {
namespace {

/// The range of the middle half of the numbers there are; 0 of less than two.
template <class Numbers>
double middle_range(const Numbers& numbers) {
  std::vector<double> sorted;
  for (const double number : numbers)
    if (std::isfinite(number)) sorted.push_back(number);
  if (sorted.size() < 2) return 0;
  std::ranges::sort(sorted);
  return sorted[(3 * (sorted.size() - 1) + 3) / 4] - sorted[(sorted.size() - 1) / 4];
}

} // namespace

LagrangianRanking::LagrangianRanking(Evaluator& evaluate)
    : evaluate_(evaluate), lagrangian_(evaluate.problem()), view_(evaluate.with(lagrangian_)) {}

void LagrangianRanking::begin(const Evaluations& all) {
  has_begun_ = true;
  Vector own(all.values.size());
  for (Index k = 0; k < own.size(); ++k) {
    const Vector parts = all.parts.col(k);
    own[k] = evaluate_.problem().scalarization()->value(Evaluation(parts, all.counts));
  }
  const double of_values = middle_range(own);
  for (Index i = 0; i < lagrangian_.y.size(); ++i) {
    const double of_row = middle_range(all.parts.row(all.counts.objectives + i));
    const double balanced = 10 * of_values / (of_row * of_row);
    if (std::isfinite(balanced) && balanced > 0) lagrangian_.penalties[i] = std::clamp(balanced, 1e-12, 1e12);
  }
}

void LagrangianRanking::values(const Matrix& points, Vector& values) {
  const Evaluations& all = view_.at(points);
  values = all.values;
  if (has_begun_) return;
  begin(all);
  // Ranked by the penalties that have only now been found.
  for (Index k = 0; k < values.size(); ++k) {
    const Vector parts = all.parts.col(k);
    if (parts.allFinite()) values[k] = lagrangian_.value(Evaluation(parts, all.counts));
  }
}

bool LagrangianRanking::raise() {
  constexpr int most = 8;
  constexpr double growth = 10;
  if (raised_ == most) return false;
  ++raised_;
  lagrangian_.penalties *= growth;
  return true;
}

void LagrangianRanking::follow(const Vector& mean) {
  constexpr double k1 = 3, k2 = 5, damping = 5;
  const auto n = static_cast<double>(mean.size());
  const Evaluation& at = evaluate_.at(mean);
  standing_ = {at.value, at.violation};
  if (!at.parts().allFinite()) return;
  const Vector parts = at.parts();
  const Evaluation now(parts, evaluate_.part_counts());
  if (rows_.size() > 0) {
    const Evaluation before(parts_, evaluate_.part_counts());
    const double change = std::abs(lagrangian_.value(now) - lagrangian_.value(before));
    const Vector penalties = lagrangian_.penalties;
    for (Index i = 0; i < rows_.size(); ++i) {
      const double misfit = lagrangian_.misfit(i, now.constraints()[i]), last = lagrangian_.misfit(i, rows_[i]);
      if (misfit == 0 && last == 0) continue; // inside, without a multiplier
      const bool is_slow =
          penalties[i] * misfit * misfit < k1 * change / n || k2 * std::abs(misfit - last) < std::abs(last);
      lagrangian_.penalties[i] *= std::exp2((is_slow ? 0.25 : -1) / (n * damping));
    }
  }
  lagrangian_.update(now, 1 / damping);
  rows_ = now.constraints();
  parts_ = parts;
}

} // namespace tanzen::methods
