#include "tanzen/methods/global/local_search.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/stop_checker.hpp"

#include <cmath>
#include <fmt/format.h>

namespace tanzen::methods {

void LocalChoice::settings(Settings& list) {
  const auto check = [](std::string_view text) -> std::optional<std::string> {
    try {
      (void)standard_methods().parse(text);
    } catch (const InputError& error) {
      return fmt::format("must be a method: {}", error.what());
    }
    return std::nullopt;
  };
  list.add("local", local, "a method, such as nelder-mead or (lbfgs:memory=5)", check)
      .unset_means("lbfgs-bounded with exact gradients, quadratic-model without")
      .means("the local method inside");
}

Method LocalChoice::chosen(const Evaluator& evaluate) const {
  if (!local.empty()) return standard_methods().parse(local);
  return standard_methods().find(evaluate.uses_differences() ? "quadratic-model" : "lbfgs-bounded");
}

LocalSearch::LocalSearch(Evaluator& evaluate, const LocalChoice& choice)
    : evaluate_(evaluate), method_(choice.chosen(evaluate)) {
  if (evaluate.bounds().any() && method_.card().bounds.empty())
    throw InputError(fmt::format("the local method {} cannot keep bounds", method_.name()));
  if (evaluate.dimension() > method_.card().most_variables)
    throw InputError(fmt::format("the local method {} works in at most {}", method_.name(),
                                 counted(method_.card().most_variables, "variable")));
}

LocalSearch::Result LocalSearch::improve(Vector& point, double value, const RandomStream& random) {
  const std::int64_t before = evaluate_.counts().evaluations;
  StopChecker checker(
      {.iterations = 2000, .gradient_tolerance = 1e-6, .value_tolerance = 1e-11, .window = 2 * point.size() + 5});
  checker.begin(value);
  Search search = method_.search(evaluate_, {.point = point, .value = value, .random = random});
  Vector last = point;
  Result result{.value = value};
  for (std::int64_t k = 1;; ++k) {
    result.settled = !search.next();
    if (result.settled) break;
    const Iteration& now = search.iteration();
    if (now.value() <= result.value) {
      result.value = now.value();
      point = now.point();
    }
    result.settled = !now.finished().empty();
    if (result.settled) break;
    if (const auto end = checker.check(k, now.point(), now.value(), now.gradient_norm(), (now.point() - last).norm())) {
      result.settled = is_converged(end->status);
      break;
    }
    last = now.point();
  }
  result.evaluations = evaluate_.counts().evaluations - before;
  return result;
}

} // namespace tanzen::methods
