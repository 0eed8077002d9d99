#include "tanzen/methods/fit/dogleg.hpp"

#include "residual_dogleg.hpp"
#include "trust_region_fit.hpp"

namespace tanzen::methods {

MethodCard Dogleg::card() {
  return {.title = "trust region on residuals with a dogleg step",
          .family = "fit",
          .source = "Powell, 1970; Nocedal and Wright, 2006, section 4.1; radius and scale: Moré, 1978",
          .limits = "the step is over the parameters that are free, and projected onto the bounds",
          .summary =
              "Fits as levenberg-marquardt does, with one factoring for each Jacobian however often the radius falls.",
          .needs = Derivatives::gradient,
          .able = {.bounds = true, .residuals = true}};
}

Search Dogleg::search(Evaluator& evaluate, Start start) const {
  return trust_region_fit<ResidualDogleg>(evaluate, std::move(start), factor, tolerance);
}

} // namespace tanzen::methods
