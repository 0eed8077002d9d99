#include "tanzen/search/trace.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <algorithm>
#include <array>
#include <cassert>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr std::array<std::string_view, Trace::fixed_columns> names = {
    "iteration",  "evaluations",   "gradients", "hessians",  "seconds", "value",
    "best_value", "gradient_norm", "step_norm", "violation", "kkt"};

} // namespace

std::span<const std::string_view> Trace::fixed_names() {
  return names;
}

Trace::Trace(std::vector<std::string> own_columns, std::vector<std::string> variable_names, bool points,
             std::vector<double> cells)
    : own_names_(std::move(own_columns)), variable_names_(std::move(variable_names)), cells_(std::move(cells)) {
  points_ = points;
  width_ = fixed_columns + own_names_.size() + (points ? variable_names_.size() : 0);
  assert(cells_.size() % width_ == 0);
}

std::vector<std::string> Trace::column_names() const {
  std::vector<std::string> all(names.begin(), names.end());
  all.insert(all.end(), own_names_.begin(), own_names_.end());
  if (points_) all.insert(all.end(), variable_names_.begin(), variable_names_.end());
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
  assert(points_);
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

} // namespace tanzen
