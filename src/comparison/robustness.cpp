#include "tanzen/comparison/robustness.hpp"

#include "tanzen/comparison/grouping.hpp"

#include <algorithm>
#include <fmt/format.h>
#include <set>

namespace tanzen {
namespace {

/// A method's success rate and anytime score at one level of a factor.
struct Level {
  std::string name;
  double success_rate = 0;
  double anytime = 0;
};

RobustnessRow robustness_of(std::string method, std::string factor, const std::vector<Level>& levels) {
  RobustnessRow row{.method = std::move(method), .factor = std::move(factor), .levels = levels.size()};
  const auto [least_rate, most_rate] = std::ranges::minmax(levels, {}, &Level::success_rate);
  const auto [least, most] = std::ranges::minmax(levels, {}, &Level::anytime);
  row.success_rates = {least_rate.success_rate, most_rate.success_rate};
  row.anytime = {least.anytime, most.anytime};
  row.worst = least.name;
  return row;
}

Level level_of(std::string name, const GroupRow& row) {
  return {std::move(name), static_cast<double>(row.successes) / static_cast<double>(row.runs), row.anytime};
}

/// From every start, and from at least one.
RobustnessRow over_starts(const std::vector<ProblemComparison>& comparisons, std::size_t method) {
  RobustnessRow row{.method = comparisons.front().rows[method].method,
                    .factor = "start",
                    .levels = static_cast<std::size_t>(comparisons.front().rows[method].repeats)};
  const double share = 1 / static_cast<double>(comparisons.size());
  double least = 1, most = 0;
  for (const ProblemComparison& comparison : comparisons) {
    const ComparisonRow& on_one = comparison.rows[method];
    row.success_rates.lower += on_one.successes == on_one.repeats ? share : 0;
    row.success_rates.upper += on_one.successes > 0 ? share : 0;
    const double rate = static_cast<double>(on_one.successes) / static_cast<double>(on_one.repeats);
    if (rate < least || row.worst.empty()) {
      row.worst = comparison.problem;
      least = rate;
    }
    most = std::max(most, on_one.anytime);
    row.anytime.lower = row.anytime.upper == 0 ? on_one.anytime : std::min(row.anytime.lower, on_one.anytime);
    row.anytime.upper = most;
  }
  return row;
}

/// What may differ between the problems.
std::vector<std::string> option_names_of(const Results& results) {
  std::set<std::string> names;
  for (const ResultsProblem& problem : results.problems()) {
    for (const std::string& name : problem.option_names()) names.insert(name);
  }
  names.erase("dim"); // how cost grows with the variables is told by itself
  return {names.begin(), names.end()};
}

/// The problems that there are at several levels of an option and otherwise the same, a group a level.
std::vector<ProblemGroup> levels_of(const Results& results, const std::string& option) {
  const auto& problems = results.problems();
  std::vector<ProblemGroup> levels = group_problems(results, option);
  const auto is_alone = [&](std::size_t p) {
    const std::string family = problems[p].label_without(option);
    return std::ranges::count_if(problems, [&](const auto& each) { return each.label_without(option) == family; }) < 2;
  };
  for (ProblemGroup& level : levels) std::erase_if(level.problems, is_alone);
  std::erase_if(levels, [](const ProblemGroup& level) { return level.problems.empty(); });
  return levels;
}

} // namespace

std::vector<RobustnessRow> robustness_of(const std::vector<ProblemComparison>& comparisons, const Results& results) {
  std::vector<RobustnessRow> rows;
  const std::size_t methods = results.methods().size();
  for (std::size_t m = 0; m < methods; ++m) rows.push_back(over_starts(comparisons, m));
  for (const std::string& factor : option_names_of(results)) {
    std::vector<GroupComparison> groups;
    for (const ProblemGroup& group : levels_of(results, factor)) {
      GroupComparison compared = compare_over(comparisons, results, group);
      if (compared.problems > 0) groups.push_back(std::move(compared));
    }
    for (std::size_t m = 0; m < methods && groups.size() > 1; ++m) {
      std::vector<Level> levels;
      for (const GroupComparison& group : groups) levels.push_back(level_of(group.group, group.rows[m]));
      rows.push_back(robustness_of(results.methods()[m], factor, levels));
    }
  }
  const GroupComparison all = compare_over(comparisons, results, group_problems(results).front());
  const std::set<std::string> names(results.method_names().begin(), results.method_names().end());
  for (const std::string& name : names) {
    std::vector<Level> variants;
    for (std::size_t m = 0; m < methods; ++m) {
      if (results.method_names()[m] == name) variants.push_back(level_of(results.methods()[m], all.rows[m]));
    }
    if (variants.size() > 1) rows.push_back(robustness_of(name, "settings", variants));
  }
  return rows;
}

} // namespace tanzen
