#include "tanzen/problem/definition.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/expression/symbolic.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

bool are_alike(const Vector& numbers) {
  return (numbers.array() == numbers[0]).all();
}

std::optional<double> finite(double number) {
  return std::isfinite(number) ? std::optional(number) : std::nullopt;
}

/// What the problem says now of `count` variables from the first-th on.
VariableDefinition variables_now(const Problem& problem, VariableDefinition definition, Index first, Index count) {
  const Box& bounds = problem.bounds().box();
  const Box region = problem.region();
  const auto alike = [&](const Vector& numbers) { return are_alike(numbers.segment(first, count)); };
  if (!alike(bounds.lower) || !alike(bounds.upper) ||
      (problem.has_region() && !(alike(region.lower) && alike(region.upper))))
    throw ProblemError(fmt::format("the elements of {} have different bounds or regions, which cannot be written out",
                                   definition.name));
  definition.lower = finite(bounds.lower[first]);
  definition.upper = finite(bounds.upper[first]);
  definition.start.clear();
  if (problem.start()) {
    const Vector start = problem.start()->segment(first, count);
    definition.start.assign(start.begin(), are_alike(start) ? start.begin() + 1 : start.end());
  }
  definition.region.reset();
  const bool is_told = region.lower[first] == definition.lower && region.upper[first] == definition.upper;
  if (problem.has_region() && !is_told) definition.region = {region.lower[first], region.upper[first]};
  return definition;
}

/// Whether the variables are x1 to xn and differ in nothing but their starts: they are written as one vector.
bool make_a_vector(const Problem& problem) {
  const Index n = problem.dimension();
  for (Index i = 0; i < n; ++i) {
    const auto& variable = problem.variables()[static_cast<std::size_t>(i)];
    if (variable.name != fmt::format("x{}", i + 1) || !variable.unit.empty() || variable.scale) return false;
  }
  const Box region = problem.region();
  return n > 1 && are_alike(problem.bounds().lower()) && are_alike(problem.bounds().upper()) &&
         are_alike(region.lower) && are_alike(region.upper);
}

std::vector<VariableDefinition> all_variables(const Problem& problem) {
  if (make_a_vector(problem)) {
    VariableDefinition all{.name = std::string(1, 'x'), .count = problem.dimension()}; // g++ 12 warns of a literal here
    return {variables_now(problem, std::move(all), 0, problem.dimension())};
  }
  std::vector<VariableDefinition> list;
  for (Index i = 0; i < problem.dimension(); ++i) {
    const Variable& variable = problem.variables()[static_cast<std::size_t>(i)];
    list.push_back(
        variables_now(problem, {.name = variable.name, .unit = variable.unit, .scale = variable.scale}, i, 1));
  }
  return list;
}

std::string row_text(const Constraint& row, const std::string& formula) {
  if (row.is_equality()) return fmt::format("{} = {}", formula, number_text(row.lower));
  if (std::isinf(row.lower)) return fmt::format("{} <= {}", formula, number_text(row.upper));
  if (std::isinf(row.upper)) return fmt::format("{} >= {}", formula, number_text(row.lower));
  return fmt::format("{} <= {} <= {}", number_text(row.lower), formula, number_text(row.upper));
}

/// A problem that was not built from text, written out from its expressions. A sum of squares becomes one objective.
ProblemDefinition written_out(const Problem& problem) {
  if (!problem.expression() || (!problem.constraints().empty() && !problem.expressions()))
    throw ProblemError(fmt::format("{} has no formula to write: its objective is only called", problem.name()));
  ProblemDefinition definition{.name = problem.name(), .title = problem.title()};
  definition.objectives = problem.objectives();
  if (definition.objectives.empty()) definition.objectives.emplace_back();
  for (std::size_t k = 0; k < definition.objectives.size(); ++k)
    definition.objectives[k].text =
        to_formula(k == 0 ? *problem.expression() : (*problem.expressions())[static_cast<Index>(k)]);
  for (std::size_t k = 0; k < problem.constraints().size(); ++k) {
    const Constraint& row = problem.constraints()[k];
    const auto place = problem.parts().objectives + static_cast<Index>(k);
    definition.constraints.push_back({row.name, row_text(row, to_formula((*problem.expressions())[place]))});
  }
  return definition;
}

} // namespace

ProblemDefinition definition_of(const Problem& problem) {
  if (problem.is_noisy()) throw ProblemError(fmt::format("{} has noise, which cannot be written out", problem.name()));
  ProblemDefinition definition = problem.definition() ? *problem.definition() : written_out(problem);
  definition.name = problem.name();
  definition.title = problem.title();
  definition.minima = problem.known_minima();
  if (!problem.definition()) {
    definition.variables = all_variables(problem);
    return definition;
  }
  if (!definition.objectives.empty()) definition.objectives.front().sense = problem.sense();
  Index first = 0;
  for (VariableDefinition& variable : definition.variables) {
    const Index count = variable.count.value_or(1);
    variable = variables_now(problem, std::move(variable), first, count);
    first += count;
  }
  return definition;
}

} // namespace tanzen
