#pragma once

#include "tanzen/problem/problem.hpp"

namespace tanzen::methods {

/// The augmented Lagrangian: f + sum of rho_i/2 (d_i^2 - (y_i/rho_i)^2), with d_i how far c_i + y_i/rho_i lies outside
/// its row: Birgin and Martínez, 2014, equation 4.2, for rows with limits on both sides. f is what the problem itself
/// minimizes, of objectives or of residuals.
class Multipliers final : public Scalarization {
 public:
  /// With penalties of 1 and multipliers of 0; `problem` must outlive it.
  explicit Multipliers(const Problem& problem);

  Vector penalties; ///< rho, above 0, a row each
  Vector y;         ///< of grad f + sum of y_i grad c_i

  [[nodiscard]] double value(const Evaluation& at) const override;
  void slopes(const Evaluation& at, Vector& by_part) const override;
  bool bends(const Evaluation& at, Vector& by_part) const override;

  /// c_i + y_i/rho_i less its nearest point of the row.
  [[nodiscard]] double outside(Index i, double c) const {
    return rows_[static_cast<std::size_t>(i)].outside(c + y[i] / penalties[i]);
  }
  /// How far row i is from being kept, with its slack as the multiplier wants it: violation and complementarity in one
  /// (equation 4.8).
  [[nodiscard]] double misfit(Index i, double c) const { return outside(i, c) - y[i] / penalties[i]; }
  /// The largest misfit of all.
  [[nodiscard]] double misfit(const Evaluation& at) const;
  /// The largest product of a multiplier and how far an inequality is from the limit that it belongs to.
  [[nodiscard]] double largest_product(const Evaluation& at) const;
  /// The first-order estimate (equation 4.7), or so large a part of the way there.
  void update(const Evaluation& at, double part);

 private:
  const std::vector<Constraint>& rows_;
  const Scalarization& own_;
};

} // namespace tanzen::methods
