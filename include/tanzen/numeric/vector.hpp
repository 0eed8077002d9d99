#pragma once

#include <Eigen/Core>
#include <initializer_list>
#include <optional>
#include <span>
#include <utility>
#include <vector>

namespace tanzen {

using Index = Eigen::Index;

/// A point, a direction or a gradient: a column of doubles.
using Vector = Eigen::VectorXd;

/// Column-major; a set of points holds one point a column.
using Matrix = Eigen::MatrixXd;

/// A point as it is written in a call: `{0.5, -1}`, a Vector, or a std::vector. A braced list always
/// means the coordinates themselves, never a size.
class Coordinates {
 public:
  Coordinates(std::initializer_list<double> values) : Coordinates(std::span(values.begin(), values.size())) {}
  Coordinates(const std::vector<double>& values) : Coordinates(std::span(values)) {}
  Coordinates(std::span<const double> values)
      : values_(Eigen::Map<const Vector>(values.data(), static_cast<Index>(values.size()))) {}
  Coordinates(Vector values) : values_(std::move(values)) {}
  /// Whatever computes to a column: `2 * a`, `starts.col(k)`, `Vector::Ones(2)`.
  template <class Derived>
  Coordinates(const Eigen::MatrixBase<Derived>& values) : values_(values) {}

  [[nodiscard]] const Vector& vector() const { return values_; }
  operator const Vector&() const { return values_; }

 private:
  Vector values_;
};

/// Coordinates, or none: `{.start = {1, 1}}`.
struct OptionalCoordinates : std::optional<Coordinates> {
  using std::optional<Coordinates>::optional;
  OptionalCoordinates(std::initializer_list<double> values) : optional(Coordinates(values)) {}
  template <class Derived>
  OptionalCoordinates(const Eigen::MatrixBase<Derived>& values) : optional(Coordinates(values)) {}
};

/// Makes a square matrix symmetric to the last bit: each pair of entries becomes its mean. Allocates nothing.
inline void symmetrize(Matrix& matrix) {
  for (Index j = 0; j < matrix.cols(); ++j) {
    for (Index i = 0; i < j; ++i) matrix(i, j) = matrix(j, i) = 0.5 * (matrix(i, j) + matrix(j, i));
  }
}

/// Whether two points are one as far as `tolerance` of `width` in each coordinate tells: of the region, usually.
[[nodiscard]] inline bool are_one_point(const Vector& a, const Vector& b, const Vector& width, double tolerance) {
  return ((a - b).array().abs() <= tolerance * width.array()).all();
}

/// An axis-parallel box; infinite sides are allowed where the text of a user says so.
struct Box {
  Vector lower = {};
  Vector upper = {};

  [[nodiscard]] Index dimension() const { return lower.size(); }
  [[nodiscard]] Vector center() const { return 0.5 * (lower + upper); }
  [[nodiscard]] Vector width() const { return upper - lower; }
  [[nodiscard]] bool contains(const Vector& point) const {
    return (point.array() >= lower.array()).all() && (point.array() <= upper.array()).all();
  }
};

} // namespace tanzen
