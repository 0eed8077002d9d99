#include "tanzen/search/front_value.hpp"

#include "tanzen/numeric/sampling.hpp"
#include "tanzen/statistics/fronts.hpp"

namespace tanzen {

std::optional<Vector> front_reference(const Problem& problem) {
  constexpr Index looked = 101;
  if (problem.bundle()->derivatives() == Derivatives::none) return std::nullopt;
  const Matrix points =
      uniform_points(problem.sampling_box(), looked, RandomStream(1, {"front reference", problem.name()}));
  Matrix values;
  problem.bundle()->worker()->outputs(points, values);
  const auto count = static_cast<Index>(problem.objectives().size());
  Vector reference(count);
  for (Index k = 0; k < count; ++k) {
    const double sign = sign_of(problem.objectives()[static_cast<std::size_t>(k)].sense);
    reference[k] = (sign * values.row(k)).maxCoeff();
  }
  return reference.allFinite() ? std::optional(reference) : std::nullopt;
}

double front_value(const Problem& problem, const std::vector<FrontPoint>& front) {
  const auto reference = front_reference(problem);
  if (!reference) return std::numeric_limits<double>::quiet_NaN();
  Matrix points(reference->size(), static_cast<Index>(front.size()));
  for (std::size_t k = 0; k < front.size(); ++k) points.col(static_cast<Index>(k)) = front[k].objectives;
  return hypervolume(points, *reference);
}

} // namespace tanzen
