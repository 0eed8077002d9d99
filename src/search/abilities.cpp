#include "tanzen/search/abilities.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/search/method.hpp"

#include <algorithm>
#include <fmt/format.h>
#include <vector>

namespace tanzen {
namespace {

Index equalities_of(const Problem& problem) {
  return std::ranges::count_if(problem.constraints(), &Constraint::is_equality);
}

/// What the method lacks, and what the problem has of it: the parts of a sentence.
struct Lack {
  std::string cannot;
  std::string has;
};

std::optional<Lack> lack_of(const Abilities& able, const Problem& problem, const TakenCareOf& taken) {
  const auto objectives = taken.objectives ? Index{1} : static_cast<Index>(problem.objectives().size());
  const Index equalities = taken.constraints ? 0 : equalities_of(problem);
  const Index inequalities = taken.constraints ? 0 : static_cast<Index>(problem.constraints().size()) - equalities;
  if (able.residuals && problem.parts().residuals == 0)
    return Lack{"works on a sum of squares of residuals", "is none"};
  if (able.fronts && objectives < 2) return Lack{"works on several objectives", "has one"};
  if (!able.fronts && objectives > 1) return Lack{"works on one objective", fmt::format("has {}", objectives)};
  if (equalities > 0 && !able.equalities)
    return Lack{"cannot keep equality constraints", fmt::format("has {}", equalities)};
  if (inequalities > 0 && !able.inequalities)
    return Lack{"cannot keep constraints", fmt::format("has {}", inequalities)};
  if (problem.bounds().any() && !able.bounds) return Lack{"cannot keep within bounds", "has them"};
  if (problem.dimension() > able.most_variables)
    return Lack{able.most_variables == 1 ? std::string("works in one variable")
                                         : fmt::format("works in at most {} variables", able.most_variables),
                fmt::format("has {}", problem.dimension())};
  if (able.formula && (problem.expression() == nullptr || problem.is_noisy()))
    return Lack{"works on formulas", problem.is_noisy() ? "has noise" : "is none"};
  if (able.exact > problem.bundle()->derivatives())
    return Lack{able.exact == Derivatives::hessian ? "needs exact Hessians" : "needs exact gradients", "has none"};
  return std::nullopt;
}

} // namespace

std::optional<std::string> why_not(const Method& method, const Problem& problem, const TakenCareOf& taken) {
  const auto lack = lack_of(method.card().able, problem, taken);
  if (!lack) return std::nullopt;
  std::string text = fmt::format("{} {}, and {} {}", method.name(), lack->cannot, problem.name(), lack->has);
  if (method.source() == nullptr) return text;
  constexpr std::size_t most_named = 8;
  // Those made for constraints come before those that can keep them too.
  std::vector<std::string> can, made_for;
  for (const Method& other : method.source()->all()) {
    if (lack_of(other.card().able, problem, taken)) continue;
    const bool is_made_for = !problem.constraints().empty() && other.card().family == "constrained";
    (is_made_for ? made_for : can).push_back(other.name());
  }
  can.insert(can.begin(), made_for.begin(), made_for.end());
  if (can.empty()) return text + "; no method can handle it";
  const std::size_t more = can.size() - std::min(can.size(), most_named);
  can.resize(can.size() - more);
  if (more > 0) can.push_back(fmt::format("{} more", more));
  return text + fmt::format("; {} can: {}", can.size() == 1 ? "this one" : "these", joined(can, ", "));
}

void check_able(const Method& method, const Problem& problem, const TakenCareOf& taken) {
  if (const auto why = why_not(method, problem, taken)) throw ProblemError(*why);
}

} // namespace tanzen
