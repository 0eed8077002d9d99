#include "tanzen/methods/fit/levenberg_marquardt.hpp"

#include "damped_step.hpp"
#include "trust_region_fit.hpp"

namespace tanzen::methods {

MethodCard LevenbergMarquardt::card() {
  return {.title = "Levenberg and Marquardt's method",
          .family = "fit",
          .source = "Levenberg, 1944; Marquardt, 1963; Moré, 1978",
          .limits = "the step is over the parameters that are free, and projected onto the bounds",
          .summary = "The first choice for fitting a model to data: sums of squares, or of another loss, of residuals.",
          .needs = Derivatives::gradient,
          .able = {.bounds = true, .residuals = true}};
}

Search LevenbergMarquardt::search(Evaluator& evaluate, Start start) const {
  return trust_region_fit<DampedStep>(evaluate, std::move(start), factor, tolerance);
}

} // namespace tanzen::methods
