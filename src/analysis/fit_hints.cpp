#include "tanzen/analysis/fit_hints.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/problem/definition.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <optional>

namespace tanzen {
namespace {

using Hint = std::optional<std::string>;

/// What the tests look at.
struct Seen {
  const Fit& made;
  const FitStatistics& statistics;
};

/// The names of the parameters that a direction moves most.
std::string named_in(const Vector& direction, const FitStatistics& statistics) {
  constexpr double counts = 0.1;
  std::vector<std::string> names;
  const double most = direction.cwiseAbs().maxCoeff();
  for (Index i = 0; i < direction.size(); ++i)
    if (std::abs(direction[i]) > counts * most)
      names.push_back(statistics.parameters[static_cast<std::size_t>(i)].name);
  return joined(names, ", ");
}

Hint too_few_rows(const Seen& seen) {
  const auto parameters = static_cast<Index>(seen.statistics.parameters.size());
  if (seen.statistics.observations >= parameters) return std::nullopt;
  return fmt::format("{} for {}: many parameters fit alike, and none has an error",
                     counted(seen.statistics.observations, "row"), counted(parameters, "parameter"));
}

Hint undetermined(const Seen& seen) {
  if (seen.statistics.undetermined.empty()) return std::nullopt;
  const Vector& direction = seen.statistics.undetermined.front();
  const std::string names = named_in(direction, seen.statistics);
  if (names.find(',') == std::string::npos)
    return fmt::format("the data do not determine {}: it can change without the model changing at any row", names);
  return fmt::format(
      "the data do not determine {} apart: they can change together without the model changing at any row", names);
}

Hint at_bounds(const Seen& seen) {
  std::vector<std::string> names;
  for (const ParameterEstimate& each : seen.statistics.parameters)
    if (each.is_held) names.push_back(each.name);
  if (names.empty()) return std::nullopt;
  return fmt::format("a bound holds {}: the sum would fall beyond it, and the other errors are as if it were known",
                     joined(names, ", "));
}

/// Of a start that was given; one that was searched for is the best of many.
Hint flat_start(const Seen& seen) {
  if (!seen.made.start_told.empty()) return std::nullopt;
  const double before = seen.made.sum_before, after = seen.statistics.sum;
  const bool stayed = std::isfinite(before) && before - after <= 1e-3 * before && after > 0;
  if (seen.made.outcome.converged() && !(stayed && seen.statistics.r_squared < 0.1)) return std::nullopt;
  if (!stayed) return std::nullopt;
  return "the sum has hardly fallen: the model may be flat where it began; begin elsewhere, or leave --from away";
}

Hint no_values(const Seen& seen) {
  const auto outside = seen.made.outcome.events.outside_domain;
  if (outside == 0) return std::nullopt;
  return fmt::format(
      "at {} the model had no value at some row (an exponent overflows, a root of less than zero): bounds "
      "keep it away from there",
      counted(outside, "trial"));
}

/// Squares of large observations drown the others.
Hint uneven_sizes(const Seen& seen) {
  constexpr double decades = 1e4;
  const auto& definition = seen.made.problem.definition();
  if (definition == nullptr || !definition->fit) return std::nullopt;
  const DataTable& table = *definition->fit->table;
  const auto observed = observed_columns(*definition->fit);
  for (std::size_t k = 0; k < observed.size(); ++k) {
    const FitEquation& equation = definition->fit->equations[k];
    if (!observed[k] || !equation.errors.empty() || !equation.weights.empty() || table.rows.rows() < 4) continue;
    const Index rows = table.rows.rows(), looked = std::min<Index>(rows, 10'000), last = std::max<Index>(1, looked - 1);
    Vector sizes(looked); // of a long table evenly taken
    for (Index i = 0; i < looked; ++i) sizes[i] = std::abs(table.rows(i * (rows - 1) / last, *observed[k]));
    std::ranges::sort(sizes);
    const double middle = sizes[sizes.size() / 4], most = sizes[sizes.size() - 1];
    if (!(middle > 0) || !(most > decades * middle)) continue;
    return fmt::format("{} spans {} to {}: squares hear the large rows alone; give --errors, or fit its logarithm",
                       table.columns[static_cast<std::size_t>(*observed[k])], short_number(sizes[0], 2),
                       short_number(most, 2));
  }
  return std::nullopt;
}

} // namespace

std::vector<std::string> fit_hints(const Fit& made, const FitStatistics& statistics) {
  const Seen seen{made, statistics};
  std::vector<std::string> hints;
  for (const auto test : {too_few_rows, undetermined, at_bounds, flat_start, no_values, uneven_sizes}) {
    if (auto hint = test(seen)) hints.push_back(std::move(*hint));
  }
  return hints;
}

} // namespace tanzen
