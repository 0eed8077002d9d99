#pragma once

#include "tanzen/numeric/vector.hpp"

#include <cstddef>
#include <cstdint>
#include <limits>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// Which iterations a trace keeps.
struct TracePolicy {
  enum class Spacing { every, geometric };
  Spacing spacing = Spacing::every;
  /// Keep each k-th iteration; for geometric spacing the ratio is 1 + 1/k.
  std::int64_t stride = 1;
  /// Past this many rows the stride doubles and every other row goes. First and last rows always stay.
  std::size_t most_rows = 10'000;
  /// Whether each row holds the point.
  bool points = false;
  /// How many populations are kept at most, spread over the run; past it every other one goes. 0 keeps none.
  std::size_t most_populations = 0;
};

/// A population as it stood after an iteration. Values are in the problem's sense; infinite where there is none.
struct PopulationSnapshot {
  std::int64_t iteration = 0;
  Matrix points = {}; ///< one member a column
  Vector values = {};
};

/// The finished table of iterations of one run. Values are in the problem's sense. NaN is what is not known.
class Trace {
 public:
  /// Columns that every trace has, in this order; the method's own follow, then the point.
  enum Column : std::size_t {
    iteration,
    evaluations,
    gradients,
    hessians,
    seconds,
    value,
    best_value,
    gradient_norm,
    step_norm,
    violation,
    kkt,
  };
  static constexpr std::size_t fixed_columns = 11;
  [[nodiscard]] static std::span<const std::string_view> fixed_names();

  Trace() = default;
  /// From its cells, row after row: fixed columns, own columns, point where `points` holds.
  Trace(std::vector<std::string> own_columns, std::vector<std::string> variable_names, bool points,
        std::vector<double> cells);

  [[nodiscard]] std::size_t rows() const { return width_ == 0 ? 0 : cells_.size() / width_; }
  [[nodiscard]] bool has_points() const { return points_; }
  [[nodiscard]] const std::vector<std::string>& method_columns() const { return own_names_; }
  [[nodiscard]] const std::vector<std::string>& variable_names() const { return variable_names_; }
  [[nodiscard]] Index dimension() const { return static_cast<Index>(variable_names_.size()); }
  /// All column names of a row, in order.
  [[nodiscard]] std::vector<std::string> column_names() const;
  [[nodiscard]] bool has_column(std::string_view name) const;

  [[nodiscard]] double at(std::size_t row, std::size_t column) const { return cells_[row * width_ + column]; }
  /// The point of a row; requires `has_points`.
  [[nodiscard]] Eigen::Map<const Vector> point(std::size_t row) const;
  /// One column from the first row to the last. Throws InputError for a name that no column has.
  [[nodiscard]] std::vector<double> column(std::string_view name) const;
  /// A whole row: fixed columns, own columns, point.
  [[nodiscard]] std::span<const double> row(std::size_t row) const { return {cells_.data() + row * width_, width_}; }
  /// Populations, where they were asked for and the method has one.
  [[nodiscard]] const std::vector<PopulationSnapshot>& populations() const { return populations_; }

 private:
  friend class TraceRecorder;
  [[nodiscard]] std::size_t find_column(std::string_view name) const;

  bool points_ = false;
  std::vector<std::string> own_names_;
  std::vector<std::string> variable_names_;
  std::size_t width_ = 0;
  std::vector<double> cells_; ///< row after row
  std::vector<PopulationSnapshot> populations_;
};

} // namespace tanzen
