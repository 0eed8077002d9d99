#include "multipliers.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

Multipliers::Multipliers(const Problem& problem)
    : penalties(Vector::Ones(problem.parts().constraints)), y(Vector::Zero(problem.parts().constraints)),
      rows_(problem.constraints()), own_(*problem.scalarization()) {}

double Multipliers::value(const Evaluation& at) const {
  const auto c = at.constraints();
  double sum = 0;
  for (Index i = 0; i < c.size(); ++i) {
    const double d = outside(i, c[i]), shift = y[i] / penalties[i];
    sum += penalties[i] * (d - shift) * (d + shift);
  }
  return own_.value(at) + 0.5 * sum;
}

void Multipliers::slopes(const Evaluation& at, Vector& by_part) const {
  const auto c = at.constraints();
  own_.slopes(at, by_part);
  auto slope = by_part.segment(at.counts().objectives, c.size());
  for (Index i = 0; i < c.size(); ++i) slope[i] = penalties[i] * outside(i, c[i]);
}

bool Multipliers::bends(const Evaluation& at, Vector& by_part) const {
  const auto c = at.constraints();
  if (!own_.bends(at, by_part)) by_part.setZero();
  auto bend = by_part.segment(at.counts().objectives, c.size());
  for (Index i = 0; i < c.size(); ++i) bend[i] = outside(i, c[i]) != 0 ? penalties[i] : 0;
  return true;
}

double Multipliers::misfit(const Evaluation& at) const {
  const auto c = at.constraints();
  double worst = 0;
  for (Index i = 0; i < c.size(); ++i) worst = std::max(worst, std::abs(misfit(i, c[i])));
  return worst;
}

double Multipliers::largest_product(const Evaluation& at) const {
  const auto c = at.constraints();
  double largest = 0;
  for (Index i = 0; i < c.size(); ++i) {
    const Constraint& row = rows_[static_cast<std::size_t>(i)];
    if (row.is_equality() || y[i] == 0) continue;
    largest = std::max(largest, std::abs(y[i] * (c[i] - (y[i] > 0 ? row.upper : row.lower))));
  }
  return largest;
}

void Multipliers::update(const Evaluation& at, double part) {
  constexpr double largest = 1e12;
  const auto c = at.constraints();
  for (Index i = 0; i < c.size(); ++i)
    y[i] = std::clamp(y[i] + part * penalties[i] * misfit(i, c[i]), -largest, largest);
}

} // namespace tanzen::methods
