#include "tanzen/base/errors.hpp"
#include "tanzen/expression/symbolic.hpp"
#include "tanzen/problem/definition.hpp"

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

VariableDefinition one_variable(const Problem& problem, Index i) {
  const auto& variable = problem.variables()[static_cast<std::size_t>(i)];
  VariableDefinition definition{.name = variable.name, .unit = variable.unit};
  definition.lower = finite(problem.bounds().lower()[i]);
  definition.upper = finite(problem.bounds().upper()[i]);
  if (problem.start()) definition.start = {(*problem.start())[i]};
  const Box region = problem.region();
  if (problem.has_region() && (region.lower[i] != definition.lower || region.upper[i] != definition.upper))
    definition.region = {region.lower[i], region.upper[i]};
  return definition;
}

/// Whether the variables are x1 to xn and differ in nothing but their starts: they are written as one vector.
bool make_a_vector(const Problem& problem) {
  const Index n = problem.dimension();
  for (Index i = 0; i < n; ++i) {
    const auto& variable = problem.variables()[static_cast<std::size_t>(i)];
    if (variable.name != fmt::format("x{}", i + 1) || !variable.unit.empty()) return false;
  }
  const Box region = problem.region();
  return n > 1 && are_alike(problem.bounds().lower()) && are_alike(problem.bounds().upper()) &&
         are_alike(region.lower) && are_alike(region.upper);
}

VariableDefinition vector_of_all(const Problem& problem) {
  VariableDefinition all = one_variable(problem, 0);
  all.name = std::string(1, 'x'); // g++ 12 warns of a literal here, wrongly
  all.count = problem.dimension();
  if (const auto& start = problem.start(); start && !are_alike(*start)) all.start.assign(start->begin(), start->end());
  return all;
}

} // namespace

ProblemDefinition definition_of(const Problem& problem) {
  if (!problem.expression()) {
    throw ProblemError(fmt::format("{} has no formula to write: its objective is only called", problem.name()));
  }
  if (!problem.constraints().empty() || problem.objectives().size() > 1)
    throw ProblemError(fmt::format("{} has more parts than one objective and cannot be written out", problem.name()));
  ProblemDefinition definition{.name = problem.name(), .title = problem.title(), .sense = problem.sense()};
  definition.objectives = {to_formula(*problem.expression())};
  definition.minima = problem.known_minima();
  if (make_a_vector(problem)) {
    definition.variables = {vector_of_all(problem)};
  } else {
    for (Index i = 0; i < problem.dimension(); ++i) definition.variables.push_back(one_variable(problem, i));
  }
  return definition;
}

} // namespace tanzen
