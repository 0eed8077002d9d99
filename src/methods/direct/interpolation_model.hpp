#pragma once

#include "tanzen/numeric/vector.hpp"

namespace tanzen::methods {

/// A quadratic that interpolates values and changes as little as it can with each new one (Powell, 2004, "Least
/// Frobenius norm updating of quadratic models that satisfy interpolation conditions").
///
/// It works relative to a base, which follows the best point now and then so that rounding does not add up. The Hessian
/// is a matrix and a sum over the points that is not multiplied out; the inverse of the interpolation system holds its
/// leading block as Z Z' (2004, section 4; 2006, section 4). So a new value costs order n m for m points, and allocates
/// nothing.
class InterpolationModel {
 public:
  /// Of at most `most` values, from 2 n + 1 up to as many as a quadratic has coefficients.
  InterpolationModel(Index n, Index most);

  /// The model of least Hessian through these values, taken at points one a column. Order n^3.
  void begin(const Matrix& points, const Vector& values);
  /// Makes the best point the base and builds the inverse of the interpolation system anew, which brings the points
  /// into another order and leaves out what hardly adds to the others; the model stays but for its rounding. Order n
  /// m^2.
  void rebase();
  /// Whether the best point is so far from the base, against a step from it, that rounding begins to tell.
  [[nodiscard]] bool is_far_from_base(double step) const {
    return places_.col(best_).squaredNorm() > 1e3 * step * step;
  }

  [[nodiscard]] Index size() const { return size_; }
  [[nodiscard]] auto points() const { return points_.leftCols(size_); }
  [[nodiscard]] double value(Index t) const { return values_[t]; }
  [[nodiscard]] Index best() const { return best_; }
  [[nodiscard]] auto best_point() const { return points_.col(best_); }
  [[nodiscard]] double best_value() const { return values_[best_]; }

  /// The model's gradient at the best point.
  [[nodiscard]] const Vector& gradient() const { return gradient_; }
  /// The Hessian times a direction, and whole; order n m and n^2 m.
  void hessian_times(const Vector& direction, Vector& product);
  void hessian(Matrix& whole);

  /// Prepares for a value at best point + step: what the model says of it.
  void consider(const Vector& step);
  /// Whether the inverse is one still, as far as the Lagrange functions' sum of 1 tells; `rebase` makes it so.
  [[nodiscard]] bool is_sound() const;
  /// The change of the model from the best point to the one considered.
  [[nodiscard]] double predicted_change() const { return predicted_; }
  /// How much the interpolation system is worth after the point considered has taken the place of `t`: its determinant
  /// grows by this factor.
  [[nodiscard]] double denominator(Index t) const {
    return factor_.row(t).head(columns_).squaredNorm() * beta_ + lagrange_[t] * lagrange_[t];
  }
  /// Whether the point considered would tell more than the others do, and there is room for it.
  [[nodiscard]] bool adds_enough() const;
  /// The point considered becomes one more.
  void add(const Vector& point, double value);
  /// The point considered takes the place of `t`.
  void replace(Index t, const Vector& point, double value);

  /// Begins anew, with the least Hessian through the values there are, where that has had a much smaller gradient three
  /// times in a row: then what was learned elsewhere does not hold here (2006, section 8). Order n m.
  void forget_if_misled();

  /// The t-th Lagrange function's gradient at the best point, and its curvature along a direction.
  void lagrange_gradient(Index t, Vector& gradient);
  [[nodiscard]] double lagrange_curvature(Index t, const Vector& direction);

 private:
  void build_system();
  void weigh(const Vector& step);
  void append(const Vector& point, double value);
  void gather(Index t);
  void interpolate(Index t);
  void multiply_by_factor(Index t);
  void add_places(double factor, const Vector& along, Vector& sum);

  [[nodiscard]] auto place(Index t) const { return places_.col(t); }
  [[nodiscard]] auto places() const { return places_.leftCols(size_); }
  [[nodiscard]] auto factor() { return factor_.topLeftCorner(size_, columns_); }
  [[nodiscard]] auto rows() { return rows_.leftCols(size_); }

  Index n_, most_;
  Index size_ = 0, columns_ = 0; ///< how many points, and columns of Z
  Index best_ = 0;
  Matrix points_;
  Vector values_;
  Vector base_;
  Matrix places_; ///< points - base
  Matrix factor_; ///< Z, a row a point: the leading block of the inverse is Z Z'
  Matrix rows_;   ///< the inverse's last n rows, a column a point: for the gradient at the base
  Matrix square_; ///< the last n by n of them
  Vector gradient_;
  Matrix hessian_; ///< what is multiplied out
  Vector weights_; ///< of each point's place, multiplied with itself, in the rest of the Hessian
  double beta_ = 0, predicted_ = 0;
  Vector step_, here_; ///< from the best point to the one considered; where the best was
  double here_value_ = 0;
  int misled_ = 0;                                      ///< times in a row
  Vector lagrange_, slopes_;                            ///< the inverse times w, by points and by variables
  Vector products_, along_, turned_, half_, work_, to_; ///< for work
};

} // namespace tanzen::methods
