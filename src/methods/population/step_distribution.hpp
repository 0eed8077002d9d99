#pragma once

#include "tanzen/methods/population/cma_es.hpp"
#include "tanzen/numeric/vector.hpp"

#include <memory>

namespace tanzen::methods {

/// The strategy's constants of a population of `lambda` in `n` variables (Hansen, 2016, table 1), without the learning
/// rates, which are the distribution's.
struct StrategyWeights {
  StrategyWeights(Index n, Index lambda);

  Index parents;
  Vector raw;                 ///< w' of equation 49, for all members
  Vector weights;             ///< of the parents; they sum to 1
  double effective = 0;       ///< mu_eff
  double path_rate = 0;       ///< c_sigma
  double damping = 0;         ///< d_sigma
  double expected_length = 0; ///< of a standard normal vector
};

/// One generation, best member first: standard normal vectors z and the steps y = A z that they became.
struct Generation {
  Matrix z, y;
  Vector mean_z, mean_y; ///< weighted
  bool stalled = false;  ///< the step size path is long, so the other path is not lengthened (h_sigma = 0)
};

/// The shape of the steps and how it learns from a generation: what the forms of the strategy differ in.
class StepDistribution {
 public:
  StepDistribution() = default;
  StepDistribution(const StepDistribution&) = delete;
  StepDistribution& operator=(const StepDistribution&) = delete;
  virtual ~StepDistribution() = default;

  /// y = A z
  virtual void transform(const Vector& z, Vector& y) = 0;
  /// C^(-1/2) mean_y, for the path of the step size.
  virtual void whiten(const Vector& mean_z, Vector& whitened) = 0;
  virtual void learn(const Generation& generation) = 0;
  /// Logarithm of the change of sigma, for a path of this length.
  [[nodiscard]] virtual double log_change(double path_length) const = 0;
  [[nodiscard]] virtual double path_rate() const = 0;
  /// The longest principal axis, or what it is at most, and how much longer it is than the shortest; NaN where that is
  /// not known.
  [[nodiscard]] virtual double longest_axis() const = 0;
  [[nodiscard]] virtual double axis_ratio() const = 0;
  /// The k-th principal axis at its length, counted from 0, and the standard deviation of each coordinate; where they
  /// are not known what they are at most, along the coordinates.
  virtual void axis(Index k, Vector& step) const { step = longest_axis() * Vector::Unit(step.size(), k); }
  virtual void deviations(Vector& by_coordinate) const { by_coordinate.setConstant(longest_axis()); }

  [[nodiscard]] static std::unique_ptr<StepDistribution> make(CmaEs::Form form, bool active, Index n,
                                                              const StrategyWeights& weights);
};

} // namespace tanzen::methods
