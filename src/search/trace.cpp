#include "tanzen/search/trace.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <algorithm>
#include <array>
#include <cassert>
#include <fmt/format.h>
#include <limits>

namespace tanzen {
namespace {

constexpr double unknown = std::numeric_limits<double>::quiet_NaN();
constexpr std::array<std::string_view, Trace::fixed_columns> names = {
    "iteration", "evaluations", "gradients",     "hessians",  "seconds",
    "value",     "best_value",  "gradient_norm", "step_norm", "violation"};

} // namespace

std::span<const std::string_view> Trace::fixed_names() {
  return names;
}

Trace::Trace(TracePolicy policy, std::vector<std::string> variable_names)
    : policy_(policy), variable_names_(std::move(variable_names)), stride_(std::max<std::int64_t>(1, policy.stride)) {
  assert(policy.most_rows >= 2);
  width_ = fixed_columns + (policy_.points ? variable_names_.size() : 0);
}

Trace::Trace(std::vector<std::string> own_columns, std::vector<std::string> variable_names, bool points,
             std::vector<double> cells)
    : own_names_(std::move(own_columns)), variable_names_(std::move(variable_names)), cells_(std::move(cells)) {
  policy_.points = points;
  width_ = fixed_columns + own_names_.size() + (points ? variable_names_.size() : 0);
  assert(cells_.size() % width_ == 0);
}

std::vector<std::string> Trace::column_names() const {
  std::vector<std::string> all(names.begin(), names.end());
  all.insert(all.end(), own_names_.begin(), own_names_.end());
  if (policy_.points) all.insert(all.end(), variable_names_.begin(), variable_names_.end());
  return all;
}

std::size_t Trace::find_column(std::string_view name) const {
  const auto all = column_names();
  return static_cast<std::size_t>(std::ranges::find(all, name) - all.begin());
}

bool Trace::has_column(std::string_view name) const {
  return find_column(name) < width_;
}

Eigen::Map<const Vector> Trace::point(std::size_t row) const {
  assert(policy_.points);
  return {cells_.data() + row * width_ + fixed_columns + own_names_.size(), dimension()};
}

std::vector<double> Trace::column(std::string_view name) const {
  const std::size_t k = find_column(name);
  if (k >= width_) {
    throw InputError(fmt::format("the trace has no column '{}'{}", name, did_you_mean(name, column_names())));
  }
  std::vector<double> cells(rows());
  for (std::size_t row = 0; row < cells.size(); ++row) cells[row] = at(row, k);
  return cells;
}

std::size_t Trace::find_own_column(std::string_view name) {
  const auto found = std::ranges::find(own_names_, name);
  const auto k = static_cast<std::size_t>(found - own_names_.begin());
  if (found == own_names_.end()) add_own_column(name);
  own_keys_.resize(own_names_.size());
  own_keys_[k] = name.data();
  return k;
}

void Trace::add_own_column(std::string_view name) {
  const std::size_t before = fixed_columns + own_names_.size();
  std::vector<double> wider;
  wider.reserve(rows() * (width_ + 1));
  for (std::size_t r = 0; r < rows(); ++r) {
    const auto old = row(r);
    wider.insert(wider.end(), old.begin(), old.begin() + static_cast<std::ptrdiff_t>(before));
    wider.push_back(unknown);
    wider.insert(wider.end(), old.begin() + static_cast<std::ptrdiff_t>(before), old.end());
  }
  cells_.clear();
  ++width_;
  reserve_rows();
  cells_.assign(wider.begin(), wider.end());
  own_names_.emplace_back(name);
}

void Trace::note_population(std::int64_t number, const Matrix& points, const Vector& values, double sign) {
  if (policy_.most_populations == 0 || (number - 1) % population_stride_ != 0) return;
  if (populations_.size() >= policy_.most_populations) {
    population_stride_ *= 2;
    std::erase_if(populations_,
                  [&](const auto& snapshot) { return (snapshot.iteration - 1) % population_stride_ != 0; });
    if ((number - 1) % population_stride_ != 0) return;
  }
  populations_.push_back({number, points, sign * values});
}

std::int64_t Trace::kept_after(std::int64_t number) const {
  if (policy_.spacing == TracePolicy::Spacing::geometric) {
    // Thinning doubles the distances, so the ratio grows with the stride beyond the policy's.
    const std::int64_t least = std::max<std::int64_t>(1, policy_.stride);
    return number + 1 + number * (stride_ / least) / least;
  }
  return (number / stride_ + 1) * stride_;
}

void Trace::reserve_rows() {
  // Untouched memory costs nothing, and a table that never moves is never copied; but a table of long points may be
  // huge.
  constexpr std::size_t most_cells = std::size_t{1} << 21U;
  cells_.reserve(std::min(most_cells, policy_.most_rows * width_));
}

void Trace::make_room() {
  if (cells_.empty())
    reserve_rows();
  else
    thin_out();
}

void Trace::thin_out() {
  constexpr std::int64_t longest = std::int64_t{1} << 30U;
  stride_ = std::min(2 * stride_, longest);
  next_kept_ = kept_after(next_kept_ - 1);
  // All rows are one old stride apart, so every other one is on the new one.
  std::size_t kept = 1;
  for (std::size_t r = 2; r < rows(); r += 2, ++kept) {
    std::copy_n(cells_.begin() + static_cast<std::ptrdiff_t>(r * width_), width_,
                cells_.begin() + static_cast<std::ptrdiff_t>(kept * width_));
  }
  cells_.resize(kept * width_);
}

} // namespace tanzen
