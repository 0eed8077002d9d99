#pragma once

#include "tanzen/search/trace.hpp"

#include <cstddef>
#include <cstdint>
#include <limits>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace tanzen {

/// Writes the table of a run while it goes on, by a policy that bounds its memory. Rows that it hands out are valid
/// until the next one is added, or a column.
class TraceRecorder {
 public:
  /// Requires `policy.most_rows` of at least 2; fewer are taken as 2.
  TraceRecorder(const TracePolicy& policy, std::vector<std::string> variable_names);

  /// The table so far.
  [[nodiscard]] const Trace& table() const { return table_; }
  [[nodiscard]] Trace finish() && { return std::move(table_); }

  /// Adds a method's column if it is new, and says which it is among the method's own. The rows so far do
  /// not know it. `hint` is where it is probably.
  std::size_t own_column(std::string_view name, std::size_t hint) {
    // A method names its columns by the same literals in each iteration.
    if (hint < own_keys_.size() && own_keys_[hint] == name.data()) return hint;
    return find_own_column(name);
  }

  /// Keeps the population of iteration `number` where it is due.
  void note_population(std::int64_t number, const Matrix& points, const Vector& values, double sign);

  /// Whether iteration `number` gets a row. The run's last one gets one in any case.
  [[nodiscard]] bool keeps(std::int64_t number) const { return number >= next_kept_; }
  /// A new row for iteration `number`; all of it is NaN.
  std::span<double> add_row(std::int64_t number) {
    if (table_.cells_.size() >= most_cells_) make_room();
    table_.cells_.resize(table_.cells_.size() + table_.width_, std::numeric_limits<double>::quiet_NaN());
    if (keeps(number)) {
      next_kept_ = policy_.spacing == TracePolicy::Spacing::every ? next_kept_ + stride_ : kept_after(number);
    }
    return {table_.cells_.data() + table_.cells_.size() - table_.width_, table_.width_};
  }
  /// The first row; requires one.
  [[nodiscard]] std::span<double> first_row() { return {table_.cells_.data(), table_.width_}; }

 private:
  std::size_t find_own_column(std::string_view name);
  [[nodiscard]] std::int64_t kept_after(std::int64_t number) const;
  void reserve_rows();
  void make_room();
  void thin_out();
  void add_own_column(std::string_view name);

  TracePolicy policy_;
  Trace table_;
  std::size_t most_cells_ = 0;        ///< of the rows that may be; 0 until there is room for the first
  std::vector<const char*> own_keys_; ///< where each name's literal was last seen
  std::int64_t stride_ = 1;
  std::int64_t next_kept_ = 0; ///< the first iteration from here on that stays
  std::int64_t population_stride_ = 1;
};

} // namespace tanzen
