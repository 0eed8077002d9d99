#include "tanzen/comparison/scaling.hpp"

#include "tanzen/statistics/profiles.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace tanzen {
namespace {

void fit(ScalingRow& row) {
  std::vector<double> variables, costs;
  for (std::size_t k = 0; k < row.costs.size(); ++k) {
    if (!std::isfinite(row.costs[k])) continue;
    variables.push_back(row.variables[k]);
    costs.push_back(row.costs[k]);
  }
  row.exponent = row.exponent_error = std::numeric_limits<double>::quiet_NaN();
  if (variables.size() < 2) return;
  const Scaling scaling = fit_scaling(variables, costs);
  row.exponent = scaling.exponent;
  row.exponent_error = scaling.exponent_error;
}

} // namespace

std::vector<ScalingRow> scaling_of(const std::vector<ProblemComparison>& comparisons, const Results& results) {
  std::vector<std::string> families; // in the order of the campaign
  std::map<std::string, std::map<Index, const ProblemComparison*>> members;
  for (const ProblemComparison& comparison : comparisons) {
    const auto problem = std::ranges::find(results.problems(), comparison.problem, &ResultsProblem::label);
    const std::string family = problem->label_without("dim");
    if (!members.contains(family)) families.push_back(family);
    members[family][problem->dimension] = &comparison;
  }
  std::vector<ScalingRow> rows;
  for (const std::string& family : families) {
    if (members[family].size() < 2) continue;
    for (std::size_t m = 0; m < results.methods().size(); ++m) {
      ScalingRow row{.family = family, .method = results.methods()[m]};
      for (const auto& [dimension, comparison] : members[family]) {
        row.variables.push_back(static_cast<double>(dimension));
        row.costs.push_back(
            comparison->rows[m].expected_running_time.value_or(std::numeric_limits<double>::infinity()));
      }
      fit(row);
      rows.push_back(std::move(row));
    }
  }
  return rows;
}

} // namespace tanzen
