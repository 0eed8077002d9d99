#include "tanzen/study/sweep.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/numeric/constants.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace tanzen {
namespace {

constexpr std::string_view how = "write step=1.02,0.97,0.3 or step=1e-3..1e0:7";

/// `1e-3..1e0:7`; nothing where it is no range.
std::optional<std::vector<std::string>> range_values(std::string_view text) {
  const std::size_t dots = text.find("..");
  if (dots == std::string_view::npos) return std::nullopt;
  const std::size_t colon = text.find(':', dots);
  const auto from = read_number(text.substr(0, dots));
  const auto to = read_number(text.substr(dots + 2, colon == std::string_view::npos ? colon : colon - dots - 2));
  const double count = colon == std::string_view::npos ? 0 : read_number(text.substr(colon + 1)).value_or(0);
  if (!from || !to || !std::isfinite(*from) || !std::isfinite(*to) || !(count >= 2) || count > 10'000 ||
      count != std::round(count))
    throw InputError(fmt::format("--vary: '{}' is no range with a count from 2 to 10000; {}", clipped(text, 60), how));
  const bool is_geometric = *from > 0 && *to > 0;
  std::vector<std::string> values;
  for (double k = 0; k < count; ++k) {
    const double part = k / (count - 1);
    const double value = is_geometric ? *from * std::pow(*to / *from, part) : *from + part * (*to - *from);
    values.push_back(short_number(k == 0 ? *from : part == 1 ? *to : value, 6));
  }
  return values;
}

SweepCell cell_of(const Outcome& outcome) {
  return {.status = outcome.status,
          .converged = outcome.converged(),
          .value = outcome.last_value,
          .gap = outcome.gap.value_or(not_known),
          .point = outcome.last_point,
          .iterations = outcome.iterations,
          .evaluations = outcome.counts[Spent::evaluations]};
}

/// Of the trace only the ends are wanted.
RunOptions without_trace(RunOptions options) {
  options.trace = {.spacing = TracePolicy::Spacing::geometric, .most_rows = 2};
  return options;
}

} // namespace

VariedSetting VariedSetting::parse(std::string_view text) {
  const std::size_t equals = text.find('=');
  if (equals == std::string_view::npos || equals == 0 || equals + 1 == text.size())
    throw InputError(fmt::format("--vary: '{}' gives no values; {}", clipped(text, 60), how));
  VariedSetting varied{.name = std::string(trimmed(text.substr(0, equals))), .values = {}};
  const std::string_view rest = text.substr(equals + 1);
  if (auto values = range_values(rest)) {
    varied.values = std::move(*values);
    return varied;
  }
  for (const std::string& value : split(rest, ',')) varied.values.emplace_back(trimmed(value));
  return varied;
}

std::vector<Outcome> sweep_setting(const Problem& problem, const Method& method, const VariedSetting& varied,
                                   const RunOptions& options) {
  std::vector<Outcome> outcomes(varied.values.size());
  // A wrong value is found before anything runs.
  std::vector<Method> methods;
  for (const std::string& value : varied.values) methods.push_back(method.with(varied.name, value));
  run_jobs(
      problem, methods.size(),
      [&](std::size_t k) {
        return Job{methods[k], options};
      },
      [&](std::size_t k, Outcome outcome) { outcomes[k] = std::move(outcome); });
  return outcomes;
}

std::vector<SweepCell> sweep_settings(const Problem& problem, const Method& method, const VariedSetting& first,
                                      const VariedSetting& second, const RunOptions& options) {
  std::vector<Method> methods;
  for (const std::string& y : second.values) {
    for (const std::string& x : first.values) methods.push_back(method.with(first.name, x).with(second.name, y));
  }
  std::vector<SweepCell> cells(methods.size());
  const RunOptions light = without_trace(options);
  run_jobs(
      problem, methods.size(),
      [&](std::size_t k) {
        return Job{methods[k], light};
      },
      [&](std::size_t k, Outcome outcome) { cells[k] = cell_of(outcome); });
  return cells;
}

std::vector<SweepCell> sweep_starts(const Problem& problem, const Method& method, const Matrix& starts,
                                    const RunOptions& options) {
  std::vector<SweepCell> cells(static_cast<std::size_t>(starts.cols()));
  const RunOptions light = without_trace(options);
  const auto job = [&](std::size_t k) {
    Job next{method, light};
    next.options.start = Vector(starts.col(static_cast<Index>(k)));
    return next;
  };
  run_jobs(problem, cells.size(), job, [&](std::size_t k, Outcome outcome) { cells[k] = cell_of(outcome); });
  return cells;
}

std::vector<EndGroup> group_ends(const Problem& problem, const std::vector<SweepCell>& cells,
                                 std::vector<int>& group_of, double tolerance) {
  const Vector size = problem.sampling_box().width();
  std::vector<EndGroup> groups;
  std::vector<int> found(cells.size(), -1);
  for (std::size_t k = 0; k < cells.size(); ++k) {
    const SweepCell& cell = cells[k];
    if (!cell.converged || !cell.point.allFinite()) continue;
    const auto is_same = [&](const EndGroup& group) { return are_one_point(cell.point, group.point, size, tolerance); };
    const auto same = std::ranges::find_if(groups, is_same);
    found[k] = static_cast<int>(same - groups.begin());
    if (same == groups.end()) {
      groups.push_back({cell.point, cell.value, 1});
      continue;
    }
    ++same->members;
    if (sign_of(problem.value_sense()) * cell.value < sign_of(problem.value_sense()) * same->value) {
      same->point = cell.point;
      same->value = cell.value;
    }
  }
  // Equal values keep the order of their points, so that rounding does not decide.
  std::vector<int> order(groups.size());
  std::iota(order.begin(), order.end(), 0);
  const double grain = 1e-9;
  std::ranges::stable_sort(order, [&](int a, int b) {
    const auto &x = groups[static_cast<std::size_t>(a)], &y = groups[static_cast<std::size_t>(b)];
    const double difference = sign_of(problem.value_sense()) * (x.value - y.value);
    if (std::abs(difference) > grain * (1 + std::abs(x.value))) return difference < 0;
    return std::ranges::lexicographical_compare(x.point, y.point);
  });
  std::vector<int> place(groups.size());
  std::vector<EndGroup> sorted;
  for (std::size_t k = 0; k < order.size(); ++k) {
    place[static_cast<std::size_t>(order[k])] = static_cast<int>(k);
    sorted.push_back(groups[static_cast<std::size_t>(order[k])]);
  }
  group_of.assign(cells.size(), -1);
  for (std::size_t k = 0; k < cells.size(); ++k) {
    if (found[k] >= 0) group_of[k] = place[static_cast<std::size_t>(found[k])];
  }
  return sorted;
}

} // namespace tanzen
