#include "tanzen/comparison/grouping.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace tanzen {
namespace {

/// The words of a problem under a key: its traits, or one value.
std::vector<std::string> words_of(const ResultsProblem& problem, std::string_view key) {
  if (key == "trait") return problem.traits;
  if (key == "family") return {problem.family()};
  if (key == "dim") return {fmt::format("dim={}", problem.dimension)};
  const std::string value = problem.option(key);
  return {fmt::format("{}={}", key, value.empty() ? "0" : value)};
}

/// What the problems can be grouped by.
std::vector<std::string> known_keys(const Results& results) {
  std::set<std::string> keys{"trait", "dim", "family"};
  for (const ResultsProblem& problem : results.problems()) {
    for (const std::string& name : problem.option_names()) keys.insert(name);
  }
  return {keys.begin(), keys.end()};
}

void check_key(const Results& results, const std::string& key, std::string_view option) {
  const auto known = known_keys(results);
  if (std::ranges::find(known, key) != known.end()) return;
  throw InputError(fmt::format("{}: no problem has '{}'; there is {}{}", option, clipped(key, 40), joined(known, ", "),
                               did_you_mean(key, known)));
}

bool has_word(const ResultsProblem& problem, const std::string& word) {
  const std::size_t equals = word.find('=');
  if (equals == std::string::npos) return std::ranges::find(problem.traits, word) != problem.traits.end();
  const std::string key = word.substr(0, equals);
  if (key == "family") return problem.family() == word.substr(equals + 1);
  return words_of(problem, key).front() == word;
}

/// Groups of the same problems as one, with all their names.
std::vector<ProblemGroup> without_doubles(const std::vector<ProblemGroup>& groups) {
  std::vector<ProblemGroup> once;
  for (const ProblemGroup& group : groups) {
    const auto same = std::ranges::find(once, group.problems, &ProblemGroup::problems);
    if (same == once.end())
      once.push_back(group);
    else
      same->name += " and " + group.name;
  }
  return once;
}

} // namespace

std::vector<ProblemGroup> group_problems(const Results& results, std::string_view by) {
  std::vector<ProblemGroup> groups{{"all problems", {}}};
  for (std::size_t p = 0; p < results.problems().size(); ++p) groups.front().problems.push_back(p);
  if (trimmed(by).empty()) return groups;
  groups.front().name.clear();
  for (const std::string& key : split(by, ',')) {
    check_key(results, key, "--by");
    std::vector<ProblemGroup> finer;
    for (const ProblemGroup& group : groups) {
      const std::size_t begin = finer.size();
      for (const std::size_t p : group.problems) {
        for (const std::string& word : words_of(results.problems()[p], key)) {
          const std::string name = group.name.empty() ? word : group.name + ", " + word;
          const auto same = std::find_if(finer.begin() + static_cast<std::ptrdiff_t>(begin), finer.end(),
                                         [&](const ProblemGroup& each) { return each.name == name; });
          if (same == finer.end())
            finer.push_back({name, {p}});
          else
            same->problems.push_back(p);
        }
      }
    }
    groups = std::move(finer);
  }
  groups = without_doubles(groups);
  std::ranges::stable_sort(groups, [](const auto& a, const auto& b) { return natural_less(a.name, b.name); });
  return groups;
}

ProblemGroup only_problems(const Results& results, std::string_view words) {
  ProblemGroup group;
  const auto wanted = split(words, ',');
  for (const std::string& word : wanted) {
    const std::size_t equals = word.find('=');
    if (equals != std::string::npos) check_key(results, word.substr(0, equals), "--only");
  }
  group.name = joined(wanted, " ");
  for (std::size_t p = 0; p < results.problems().size(); ++p) {
    const bool has_all =
        std::ranges::all_of(wanted, [&](const std::string& word) { return has_word(results.problems()[p], word); });
    if (has_all) group.problems.push_back(p);
  }
  if (group.problems.empty()) {
    std::set<std::string> traits;
    for (const auto& problem : results.problems()) traits.insert(problem.traits.begin(), problem.traits.end());
    const std::vector<std::string> known(traits.begin(), traits.end());
    throw InputError(
        fmt::format("--only: no problem is '{}'; there are the traits {}", clipped(words, 60), joined(known, ", ")));
  }
  return group;
}

GroupComparison compare_over(const std::vector<ProblemComparison>& comparisons, const Results& results,
                             const ProblemGroup& group) {
  std::vector<const ProblemComparison*> members;
  for (const std::size_t p : group.problems) {
    const auto found = std::ranges::find(comparisons, results.problems()[p].label, &ProblemComparison::problem);
    if (found != comparisons.end()) members.push_back(&*found);
  }
  const auto problems = static_cast<Index>(members.size()), methods = static_cast<Index>(results.methods().size());
  GroupComparison comparison{.group = group.name, .problems = members.size(), .rows = {}, .friedman = {}};
  Matrix ranks(problems, methods);
  for (Index m = 0; m < methods; ++m) {
    GroupRow row{.method = results.methods()[static_cast<std::size_t>(m)]};
    for (Index p = 0; p < problems; ++p) {
      const ComparisonRow& on_one = members[static_cast<std::size_t>(p)]->rows[static_cast<std::size_t>(m)];
      ranks(p, m) = on_one.mean_rank;
      row.runs += on_one.repeats;
      row.successes += on_one.successes;
      row.anytime += on_one.anytime / static_cast<double>(problems);
      row.mean_rank += on_one.mean_rank / static_cast<double>(problems);
    }
    row.success_interval = wilson_interval(row.successes, row.runs);
    comparison.rows.push_back(std::move(row));
  }
  const auto first = std::ranges::min_element(comparison.rows, {}, &GroupRow::mean_rank);
  comparison.first = static_cast<std::size_t>(first - comparison.rows.begin());
  if (methods < 2) return comparison;
  comparison.friedman = friedman_test(ranks);
  comparison.critical_distance = critical_distance(methods, problems);
  // All pairs count: which method comes first was not known before.
  std::vector<std::pair<Index, Index>> pairs;
  std::vector<double> p_values;
  for (Index a = 0; a < methods; ++a) {
    for (Index b = a + 1; b < methods; ++b) {
      pairs.emplace_back(a, b);
      p_values.push_back(signed_rank_test(column_of(ranks, a), column_of(ranks, b)).p);
    }
  }
  const auto adjusted = holm_adjusted(p_values);
  comparison.least_p =
      std::min(1.0, static_cast<double>(p_values.size()) * std::pow(2.0, 1 - static_cast<double>(problems)));
  const auto best = static_cast<Index>(comparison.first);
  for (std::size_t k = 0; k < pairs.size(); ++k) {
    if (pairs[k].first != best && pairs[k].second != best) continue;
    const Index other = pairs[k].first == best ? pairs[k].second : pairs[k].first;
    GroupRow& row = comparison.rows[static_cast<std::size_t>(other)];
    row.p_to_first = adjusted[k];
    row.to_first = wins_ties_losses(column_of(ranks, other), column_of(ranks, best));
    row.effect = 0;
    for (const ProblemComparison* each : members)
      row.effect +=
          chance_of_smaller(column_of(each->keys, other), column_of(each->keys, best)) / static_cast<double>(problems);
  }
  return comparison;
}

} // namespace tanzen
