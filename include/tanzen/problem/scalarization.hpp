#pragma once

#include "tanzen/problem/evaluation.hpp"
#include "tanzen/problem/function.hpp"
#include "tanzen/problem/loss.hpp"

#include <memory>
#include <utility>

namespace tanzen {

/// How the parts of a bundle become the one number that a method minimizes: the plain objective, a loss, a penalty, an
/// augmented Lagrangian, a weighted sum are five of them. Derivatives follow from its slopes and bends alone: the
/// gradient is J' slopes, the Hessian the sum of slope_i times the Hessian of part i, plus J' diag(bends) J.
class Scalarization {
 public:
  Scalarization() = default;
  Scalarization(const Scalarization&) = default;
  Scalarization& operator=(const Scalarization&) = default;
  virtual ~Scalarization() = default;

  [[nodiscard]] virtual double value(const Evaluation& at) const = 0;
  /// The derivative by each part, in the order of the parts. `by_part` has one entry each.
  virtual void slopes(const Evaluation& at, Vector& by_part) const = 0;
  /// The second derivative by each part. False, and `by_part` untouched, where all are zero.
  virtual bool bends(const Evaluation& at, Vector& by_part) const;
  /// Whether the value is a sum over the residuals, each by itself; then `slope_of` the k-th is its part of `slopes`.
  [[nodiscard]] virtual bool is_sum() const { return false; }
  [[nodiscard]] virtual double slope_of(Index k, double residual) const;
};

using ScalarizationPointer = std::shared_ptr<const Scalarization>;

/// The weighted sum of the objectives.
class WeightedSum final : public Scalarization {
 public:
  explicit WeightedSum(Vector weights) : weights_(std::move(weights)) {}
  [[nodiscard]] double value(const Evaluation& at) const override;
  void slopes(const Evaluation& at, Vector& by_part) const override;

 private:
  Vector weights_;
};

/// The sum of the losses of the weighted residuals: what a fit minimizes.
class LossSum final : public Scalarization {
 public:
  /// `weights` empty: all 1.
  explicit LossSum(Loss loss, Vector weights = {}) : loss_(loss), weights_(std::move(weights)) {}

  [[nodiscard]] double value(const Evaluation& at) const override;
  void slopes(const Evaluation& at, Vector& by_part) const override;
  bool bends(const Evaluation& at, Vector& by_part) const override;
  [[nodiscard]] bool is_sum() const override { return true; }
  [[nodiscard]] double slope_of(Index k, double residual) const override {
    return weight(k) * loss_.slope(weight(k) * residual);
  }

  [[nodiscard]] const Loss& loss() const { return loss_; }
  [[nodiscard]] double weight(Index k) const { return weights_.size() == 0 ? 1 : weights_[k]; }

 private:
  Loss loss_;
  Vector weights_;
};

/// The sum of the residuals as they are: terms of an objective, which no method takes for squares.
class TermSum final : public Scalarization {
 public:
  [[nodiscard]] double value(const Evaluation& at) const override { return at.residuals().sum(); }
  void slopes(const Evaluation& at, Vector& by_part) const override;
  [[nodiscard]] bool is_sum() const override { return true; }
  [[nodiscard]] double slope_of(Index /*k*/, double /*residual*/) const override { return 1; }
};

/// The one objective of a plain problem, or of one with constraints: `WeightedSum` of weight 1 without its sum.
[[nodiscard]] ScalarizationPointer plain_objective();

/// A bundle's parts and a scalarization as a function of one value, with the derivatives that the bundle has.
/// Objectives are taken as the bundle gives them.
[[nodiscard]] FunctionPointer scalarized(FunctionPointer bundle, const PartCounts& counts,
                                         ScalarizationPointer scalarization);

} // namespace tanzen
