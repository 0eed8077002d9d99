#pragma once

#include "tanzen/numeric/vector.hpp"
#include "tanzen/problem/bounds.hpp"
#include "tanzen/search/status.hpp"

#include <array>
#include <cstddef>
#include <limits>
#include <new>
#include <span>
#include <string_view>

namespace tanzen {

/// The name of a column: a literal, which outlives every run; the compiler refuses others.
struct ColumnName {
  std::string_view text = {};
  consteval ColumnName(const char* literal) : text(literal) {}
};

/// Where a method stands after one iteration: what it yields. Borrows the point and the names until the
/// method goes on. Values are those to minimize.
class Iteration {
 public:
  /// A number that the method follows, such as `step`, `radius`, `sigma`, `diversity`.
  struct Column {
    std::string_view name = {};
    double value = 0;
  };
  static constexpr std::size_t most_columns = 12;

  Iteration(const Vector& point, double value) : point_(&point), value_(value) {}

  /// The gradient at the point; it is borrowed until the method goes on. Within bounds the norm is the projected one.
  Iteration& gradient(const Vector& at_point) {
    gradient_ = &at_point;
    gradient_norm_ = at_point.norm();
    return *this;
  }
  Iteration& gradient(const Vector& at_point, const Bounds& bounds) {
    gradient_ = &at_point;
    gradient_norm_ = bounds.projected_gradient_norm(*point_, at_point);
    return *this;
  }
  /// Of a method that knows the norm alone, and perhaps what the relative gradient is.
  Iteration& gradient_norm(double norm, double relative = std::numeric_limits<double>::quiet_NaN()) {
    gradient_norm_ = norm;
    relative_gradient_ = relative;
    return *this;
  }
  /// At most `most_columns`; more are left out.
  Iteration& column(ColumnName name, double value) {
    if (count_ < most_columns) ::new (&room_[count_++ * sizeof(Column)]) Column{name.text, value};
    return *this;
  }
  /// Points one a column, and their values.
  Iteration& population(const Matrix& points, const Vector& values) {
    population_ = &points;
    population_values_ = &values;
    return *this;
  }
  /// The KKT residual at the point, by the method's multipliers.
  Iteration& kkt(double residual) {
    kkt_ = residual;
    return *this;
  }
  /// The largest violation of the constraints at the point.
  Iteration& violation(double largest) {
    violation_ = largest;
    return *this;
  }

  // The method is done, and why; an empty reason means that it goes on. The text must outlive the run.
  /// Its own test of convergence is met: the simplex has collapsed, the interval is closed.
  Iteration& settled(std::string_view reason) { return ended(Status::method, reason); }
  /// Nothing within the region is better: it has proved that.
  Iteration& proved(std::string_view reason) { return ended(Status::proved, reason); }
  /// It finds nothing lower although no test of convergence is met.
  Iteration& stalled(std::string_view reason) { return ended(Status::stalled, reason); }
  /// A limit of its own is reached.
  Iteration& at_limit(std::string_view reason) { return ended(Status::size, reason); }
  /// The violation cannot be lowered any more, and it is not zero.
  Iteration& infeasible(std::string_view reason) { return ended(Status::infeasible, reason); }
  /// It cannot go on.
  Iteration& failed(std::string_view reason) { return ended(Status::failed, reason); }

  [[nodiscard]] const Vector& point() const { return *point_; }
  [[nodiscard]] double value() const { return value_; }
  [[nodiscard]] double gradient_norm() const { return gradient_norm_; }
  /// Null where the method did not tell it.
  [[nodiscard]] const Vector* gradient() const { return gradient_; }
  /// As the method measures it; NaN where it did not tell.
  [[nodiscard]] double relative_gradient() const { return relative_gradient_; }
  [[nodiscard]] std::span<const Column> columns() const {
    return {std::launder(reinterpret_cast<const Column*>(room_.data())), count_};
  }
  [[nodiscard]] const Matrix* population() const { return population_; }
  [[nodiscard]] const Vector* population_values() const { return population_values_; }
  [[nodiscard]] double kkt() const { return kkt_; }
  /// NaN where the method did not tell it.
  [[nodiscard]] double violation() const { return violation_; }
  /// Why the method is done; empty where it goes on.
  [[nodiscard]] std::string_view end_reason() const { return end_reason_; }
  [[nodiscard]] Status end_status() const { return end_status_; }

 private:
  Iteration& ended(Status status, std::string_view reason) {
    if (!reason.empty() && end_reason_.empty()) {
      end_status_ = status;
      end_reason_ = reason;
    }
    return *this;
  }

  const Vector* point_;
  double value_;
  double gradient_norm_ = std::numeric_limits<double>::quiet_NaN();
  double relative_gradient_ = std::numeric_limits<double>::quiet_NaN();
  const Vector* gradient_ = nullptr;
  const Matrix* population_ = nullptr;
  const Vector* population_values_ = nullptr;
  double kkt_ = std::numeric_limits<double>::quiet_NaN();
  double violation_ = std::numeric_limits<double>::quiet_NaN();
  std::string_view end_reason_;
  Status end_status_ = Status::method;
  std::size_t count_ = 0;
  /// Where the first `count_` columns are; the rest is never written: it would take a tenth of a short iteration.
  alignas(Column) std::array<std::byte, most_columns * sizeof(Column)> room_;
};

} // namespace tanzen
