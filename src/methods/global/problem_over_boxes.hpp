#pragma once

#include "tanzen/interval/interval_newton.hpp"
#include "tanzen/interval/interval_tape.hpp"
#include "tanzen/numeric/factors.hpp"
#include "tanzen/numeric/vector.hpp"
#include "tanzen/problem/problem.hpp"

#include <optional>
#include <vector>

namespace tanzen::methods {

/// A problem's value to minimize and its constraints' rows over boxes of its region, and at points: what a branch and
/// bound asks of it.
class ProblemOverBoxes {
 public:
  using Order = IntervalTape::Order;
  using Sides = std::vector<Enclosure>;

  explicit ProblemOverBoxes(const Problem& problem);

  [[nodiscard]] std::size_t dimension() const { return n_; }
  [[nodiscard]] std::size_t rows() const { return limits_.size(); }
  [[nodiscard]] const Sides& region() const { return region_; }
  [[nodiscard]] double typical_size(std::size_t i) const { return sizes_[static_cast<Index>(i)]; }

  /// Of a box; what follows is said of the last one. Returns what is known of the function there.
  BoxTraits look_at(const Sides& box, Order order);
  [[nodiscard]] Enclosure value() const { return told(tape_.value(work_)); }
  /// Of the function, or of its Lagrangian with the multipliers that were set last.
  [[nodiscard]] Enclosure slope(std::size_t i) const { return weighted_slope(i, work_); }
  [[nodiscard]] Enclosure bend(std::size_t i, std::size_t j) const;

  /// Whether some row has no value within its limits in the box, so that no point of it is feasible.
  [[nodiscard]] bool is_infeasible() const;
  /// Whether all rows are within their limits, with room, all over the box and a little beyond.
  [[nodiscard]] bool is_inside() const;
  /// Whether the function, and the rows that may hold a point of the box, have slopes, or second derivatives, all over
  /// it.
  [[nodiscard]] bool is_continuous() const;
  [[nodiscard]] bool is_smooth() const;
  /// Whether the function has values all over the box, and all of it is feasible.
  [[nodiscard]] bool has_values() const;
  /// Whether function and rows have values all over the box that do not jump, so that a least one is taken.
  [[nodiscard]] bool has_least() const;
  /// Narrow the box to where the value is at most `best`, or the rows within their limits. False where nothing is left.
  [[nodiscard]] bool contract_by_value(double best, Sides& box);
  [[nodiscard]] bool contract_by_rows(Sides& box);

  /// Multipliers for a bound by the Lagrangian: those that balance the slopes best at the middle of the box, with the
  /// signs that make it one. None where no row may hold a point.
  void set_multipliers(const Sides& box);
  void clear_multipliers() { multipliers_.setZero(); }
  /// Or those of the best point that was told, where all rows that they are of are smooth over the box looked at; false
  /// where there are none.
  [[nodiscard]] bool set_best_multipliers();
  /// The best point so far.
  void remember(const Vector& best);
  /// By the mean-value form and the Taylor form of second order, after `look_at` with the Hessian where it is smooth:
  /// an enclosure of the value, or, with multipliers, of the Lagrangian, no lower than which feasible values are.
  [[nodiscard]] Enclosure range_from_middle(const Sides& box);

  /// The same by a convex function below the value, or the Lagrangian, on the box: with half of `curving[i]` times
  /// (x_i - lower_i)(x_i - upper_i) added where it is not convex itself (Adjiman, Dallwig, Floudas and Neumaier, 1998,
  /// sections 3.2 and 4.2), and by its tangent where that is least. Raises `lower`, and narrows the box to where the
  /// value may be at most `best`; false where nothing is left. After `look_at` with the Hessian; requires that the box
  /// is smooth.
  [[nodiscard]] bool narrow_by_convexity(double best, Sides& box, double& lower);

  /// The value at a point, rounded upwards; infinite where it has none, or no feasible point is proved to be there.
  [[nodiscard]] double highest_at(const Vector& point);
  /// Whether exactly one point of the box is a minimizer of the feasible points in it, with what holds it known; `box`
  /// becomes a narrower one that holds it. Cost: some gradients and Hessians, and n^3.
  [[nodiscard]] bool holds_one_minimizer(Sides& box);
  /// Newton steps within the region to where they lead no further: `point` becomes it. Under constraints only from near
  /// a minimizer. For upper bounds: what they are worth is told by `highest_at`.
  void descend(Vector& point);

 private:
  [[nodiscard]] Enclosure told(const Enclosure& value) const { return sign_ < 0 ? -value : value; }
  [[nodiscard]] Enclosure weighted_slope(std::size_t i, const IntervalTape::Workspace& work) const;
  [[nodiscard]] Enclosure weighted_value(const IntervalTape::Workspace& work) const;
  [[nodiscard]] bool may_hold(std::size_t row) const;
  [[nodiscard]] bool contract_by(Index output, const Enclosure& range, Sides& box);
  void look_at_point(const Vector& point, Order order);
  void slopes_at_point(Vector& gradient, Matrix& rows, Vector& values) const;
  [[nodiscard]] Matrix bends_at_point(const Vector& multipliers) const;
  void keep_in_region(Vector& point) const;

  /// A convex function below on a box, by the sides that are no points.
  struct Underestimator {
    std::vector<std::size_t> sides;
    std::vector<double> curving;              ///< what was added to the Hessian's diagonal
    Matrix middle;                            ///< of the enclosure of the Hessian with that
    std::optional<std::vector<double>> reach; ///< of `reach_of_bowl`, where nothing was added
  };
  [[nodiscard]] std::optional<Underestimator> underestimator(const Sides& box) const;
  [[nodiscard]] Enclosure slope_of(const Underestimator& below, std::size_t k, const Sides& box) const;
  Vector least_of(const Underestimator& below, const Sides& box);
  [[nodiscard]] Matrix hessian_at_point(const std::vector<std::size_t>& sides) const;

  void descend_freely(Vector& point);
  /// A row or face of the region that holds a point.
  struct Held {
    Vector slope;
    double away; ///< from its limit
    int side;    ///< below 0 at a lower limit, above 0 at an upper one, 0 of an equality
    Index row;   ///< -1 for faces
  };
  [[nodiscard]] std::vector<Held> held_at(const Vector& point, const Matrix& slopes, const Vector& values) const;
  static Vector step_along(std::vector<Held>& held, const CholeskyFactors& factors, const Vector& gradient,
                           Vector& multipliers);
  /// A row at a limit that a minimizer is supposed to be held by; `side` as of Held.
  struct HeldRow {
    std::size_t row;
    int side;
    double multiplier;
  };
  struct Supposed {
    Vector point = {};
    std::vector<HeldRow> rows = {};
    std::vector<char> moves = {}; ///< by variable, whether no face holds it
    std::vector<int> face = {};   ///< by variable, the side of the face that does
  };
  [[nodiscard]] std::optional<Supposed> supposed_minimizer(const Sides& box);
  [[nodiscard]] Enclosure lagrangian_slope(std::size_t i, const std::vector<HeldRow>& rows,
                                           std::span<const Enclosure> multipliers,
                                           const IntervalTape::Workspace& work) const;
  [[nodiscard]] Enclosure lagrangian_bend(std::size_t i, std::size_t j, const std::vector<HeldRow>& rows,
                                          std::span<const Enclosure> multipliers) const;
  [[nodiscard]] static Index output_of(const HeldRow& held);
  [[nodiscard]] double limit_of(const HeldRow& held) const;
  IntervalNewton::Result step_with_multipliers(const Supposed& at, Sides& box, Sides& multipliers);
  [[nodiscard]] bool proves_stationary_point(const Supposed& at, Sides& box, Sides& multipliers);
  static std::optional<Sides> raised(const Supposed& at, const Sides& multipliers, const Sides& away, double rho);
  [[nodiscard]] Sides raised_hessian(const Supposed& at, const Sides& box, const Sides& weights, const Sides& slopes,
                                     double rho) const;
  [[nodiscard]] bool rises_all_around(const Supposed& at, const Sides& box, const Sides& found,
                                      const Sides& multipliers);

  static Vector balanced(std::vector<Held>& held, const Vector& gradient);
  static void set_rows(Vector& by_row, const std::vector<Held>& held, const Vector& multipliers);
  bool newton_along_rows(Vector& point);
  void polish_along_rows(Vector& point);
  void step_inside(Vector& point);

  [[nodiscard]] bool has_value_there() const;
  [[nodiscard]] bool keeps_inequality(std::size_t row) const;
  [[nodiscard]] std::vector<std::size_t> moving_variables(const Vector& point,
                                                          const std::vector<std::size_t>& equalities) const;
  [[nodiscard]] std::optional<double> proved_value(const Vector& point);
  [[nodiscard]] std::optional<double> proved_value_nearby(const Vector& point,
                                                          const std::vector<std::size_t>& equalities);

  IntervalTape tape_;
  IntervalTape::Workspace work_, point_work_; ///< of boxes, of points in them
  double sign_;
  std::size_t n_;
  Sides region_;
  Vector sizes_;
  std::vector<Enclosure> limits_;  ///< of the rows
  Vector multipliers_;             ///< by row
  Vector best_, best_multipliers_; ///< the best point and those there; empty where none was told
  Sides point_, narrower_;
};

} // namespace tanzen::methods
