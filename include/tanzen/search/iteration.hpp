#pragma once

#include "tanzen/numeric/vector.hpp"

#include <array>
#include <cassert>
#include <limits>
#include <span>
#include <string_view>

namespace tanzen {

/// Where a method stands after one iteration: what it yields. Borrows the point and the names until the
/// method goes on. Values are those to minimize.
class Iteration {
 public:
  /// A number that the method follows, such as `step`, `radius`, `sigma`, `diversity`.
  struct Column {
    std::string_view name; ///< a literal: it must outlive the run
    double value;
  };
  static constexpr std::size_t most_columns = 12;

  Iteration(const Vector& point, double value) : point_(&point), value_(value) {}

  /// The norm of the (projected) gradient at the point.
  Iteration& gradient_norm(double norm) {
    gradient_norm_ = norm;
    return *this;
  }
  Iteration& column(std::string_view name, double value) {
    assert(count_ < most_columns);
    columns_[count_++] = {name, value};
    return *this;
  }
  /// Points one a column, and their values.
  Iteration& population(const Matrix& points, const Vector& values) {
    population_ = &points;
    population_values_ = &values;
    return *this;
  }
  /// The method is done, and why: the run ends as converged. The text must outlive the run.
  Iteration& finished(std::string_view reason) {
    finished_ = reason;
    return *this;
  }

  [[nodiscard]] const Vector& point() const { return *point_; }
  [[nodiscard]] double value() const { return value_; }
  [[nodiscard]] double gradient_norm() const { return gradient_norm_; }
  [[nodiscard]] std::span<const Column> columns() const { return {columns_.data(), count_}; }
  [[nodiscard]] const Matrix* population() const { return population_; }
  [[nodiscard]] const Vector* population_values() const { return population_values_; }
  [[nodiscard]] std::string_view finished() const { return finished_; }

 private:
  const Vector* point_;
  double value_;
  double gradient_norm_ = std::numeric_limits<double>::quiet_NaN();
  const Matrix* population_ = nullptr;
  const Vector* population_values_ = nullptr;
  std::string_view finished_;
  std::size_t count_ = 0;
  std::array<Column, most_columns> columns_; ///< the first `count_` of them
};

} // namespace tanzen
