#include "tanzen/methods/global/local_search.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/search_loop.hpp"

#include <cmath>
#include <fmt/format.h>

namespace tanzen::methods {
namespace {

/// In the catalogue that the outer method is from; a method that is from none looks among the standard ones.
Method named(const MethodSourcePointer& source, std::string_view text) {
  return source ? source->parse(text) : standard_methods().parse(text);
}

} // namespace

void LocalChoice::settings(Settings& list) {
  methods = list.methods();
  const auto check = [source = methods](std::string_view text) -> std::optional<std::string> {
    try {
      (void)named(source, text);
    } catch (const InputError& error) {
      return fmt::format("must be a method: {}", error.what());
    }
    return std::nullopt;
  };
  list.add("local", local, "a method, such as nelder-mead or (lbfgs:memory=5)", check)
      .unset_means("lbfgs-bounded with exact gradients, quadratic-model without; under constraints "
                   "sequential-quadratic, linear-model")
      .means("the local method inside");
}

Method LocalChoice::chosen(const Evaluator& evaluate, const TakenCareOf& taken) const {
  if (!local.empty()) return named(methods, local);
  const bool is_constrained = evaluate.part_counts().constraints > 0 && !taken.constraints;
  if (evaluate.uses_differences()) return standard_methods().find(is_constrained ? "linear-model" : "quadratic-model");
  return standard_methods().find(is_constrained ? "sequential-quadratic" : "lbfgs-bounded");
}

LocalSearch::LocalSearch(Evaluator& evaluate, const LocalChoice& choice, const TakenCareOf& taken)
    : evaluate_(evaluate), method_(choice.chosen(evaluate, taken)),
      level_(taken.constraints ? std::numeric_limits<double>::infinity() : evaluate.feasibility()) {
  check_able(method_, evaluate.problem(), taken);
}

// So exact that no ill-conditioned valley is left half way; basin-hopping solves ellipsoid:dim=10,rotate=1 in a median
// of 346 values so, and in 5,910 with a hundredth of it.
LocalSearch::Result LocalSearch::improve(Vector& point, const Standing& standing, const RandomStream& random) {
  return improve(
      point, standing, random,
      {.iterations = 2000, .gradient_tolerance = 1e-8, .value_tolerance = 1e-11, .window = 2 * point.size() + 5});
}

LocalSearch::Result LocalSearch::improve(Vector& point, const Standing& standing, const RandomStream& random,
                                         const StopRules& rules) {
  const std::int64_t before = evaluate_.ledger().evaluations();
  SearchLoop loop(evaluate_, method_,
                  {.point = point, .value = standing.value, .random = random, .violation = standing.violation}, rules);
  Result result{.standing = standing};
  for (bool goes_on = true; goes_on;) {
    goes_on = loop.step();
    if (!loop.has_iteration()) continue;
    const Standing now{loop.value(), violation_at(loop.iteration())};
    if (is_better(result.standing, now)) continue;
    result.standing = now;
    point = loop.point();
  }
  // A line search at its end is as near as a local method comes; only limits and failures are no minimum.
  const Status status = loop.ended()->status;
  result.settled = may_be_converged(status) || status == Status::stalled;
  result.iterations = loop.iterations();
  result.evaluations = evaluate_.ledger().evaluations() - before;
  return result;
}

/// Without a limit it does not matter; of a method that keeps constraints and does not tell, nothing good is supposed.
double LocalSearch::violation_at(const Iteration& now) const {
  const bool matters = evaluate_.part_counts().constraints > 0 && std::isfinite(level_);
  if (!matters) return 0;
  return std::isnan(now.violation()) ? std::numeric_limits<double>::infinity() : now.violation();
}

} // namespace tanzen::methods
