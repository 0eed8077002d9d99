#include "tanzen/search/trace_recorder.hpp"
#include "tanzen/numeric/constants.hpp"

#include <algorithm>

namespace tanzen {

TraceRecorder::TraceRecorder(const TracePolicy& policy, std::vector<std::string> variable_names)
    : policy_(policy), stride_(std::max<std::int64_t>(1, policy.stride)) {
  constexpr std::size_t beyond_memory = std::size_t{1} << 40U;
  policy_.most_rows = std::clamp<std::size_t>(policy.most_rows, 2, beyond_memory);
  table_.points_ = policy.points;
  table_.variable_names_ = std::move(variable_names);
  table_.width_ = Trace::fixed_columns + (policy.points ? table_.variable_names_.size() : 0);
}

std::size_t TraceRecorder::find_own_column(std::string_view name) {
  const auto found = std::ranges::find(table_.own_names_, name);
  const auto k = static_cast<std::size_t>(found - table_.own_names_.begin());
  if (found == table_.own_names_.end()) add_own_column(name);
  own_keys_.resize(table_.own_names_.size());
  own_keys_[k] = name.data();
  return k;
}

void TraceRecorder::add_own_column(std::string_view name) {
  const std::size_t before = Trace::fixed_columns + table_.own_names_.size();
  std::vector<double> wider;
  wider.reserve(table_.rows() * (table_.width_ + 1));
  for (std::size_t r = 0; r < table_.rows(); ++r) {
    const auto old = table_.row(r);
    wider.insert(wider.end(), old.begin(), old.begin() + static_cast<std::ptrdiff_t>(before));
    wider.push_back(not_known);
    wider.insert(wider.end(), old.begin() + static_cast<std::ptrdiff_t>(before), old.end());
  }
  table_.cells_.clear();
  ++table_.width_;
  reserve_rows();
  table_.cells_.assign(wider.begin(), wider.end());
  table_.own_names_.emplace_back(name);
}

void TraceRecorder::note_population(std::int64_t number, const Matrix& points, const Vector& values, double sign) {
  if (policy_.most_populations == 0 || (number - 1) % population_stride_ != 0) return;
  if (table_.populations_.size() >= policy_.most_populations) {
    population_stride_ *= 2;
    std::erase_if(table_.populations_,
                  [&](const auto& snapshot) { return (snapshot.iteration - 1) % population_stride_ != 0; });
    if ((number - 1) % population_stride_ != 0) return;
  }
  table_.populations_.push_back({number, points, sign * values});
}

std::int64_t TraceRecorder::kept_after(std::int64_t number) const {
  if (policy_.spacing == TracePolicy::Spacing::geometric) {
    // Thinning doubles the distances, so the ratio grows with the stride beyond the policy's.
    const std::int64_t least = std::max<std::int64_t>(1, policy_.stride);
    return number + 1 + number * (stride_ / least) / least;
  }
  return (number / stride_ + 1) * stride_;
}

void TraceRecorder::reserve_rows() {
  // Untouched memory costs nothing, and a table that never moves is never copied; but a table of long points may be
  // huge.
  constexpr std::size_t most_reserved = std::size_t{1} << 21U;
  most_cells_ = policy_.most_rows * table_.width_;
  table_.cells_.reserve(std::min(most_reserved, most_cells_));
}

void TraceRecorder::make_room() {
  if (table_.cells_.empty())
    reserve_rows();
  else
    thin_out();
}

void TraceRecorder::thin_out() {
  constexpr std::int64_t longest = std::int64_t{1} << 30U;
  stride_ = std::min(2 * stride_, longest);
  next_kept_ = kept_after(next_kept_ - 1);
  // All rows are one old stride apart, so every other one is on the new one.
  std::size_t kept = 1;
  for (std::size_t r = 2; r < table_.rows(); r += 2, ++kept) {
    std::copy_n(table_.cells_.begin() + static_cast<std::ptrdiff_t>(r * table_.width_), table_.width_,
                table_.cells_.begin() + static_cast<std::ptrdiff_t>(kept * table_.width_));
  }
  table_.cells_.resize(kept * table_.width_);
}

} // namespace tanzen
