#include "line_rules.hpp"
#include "tanzen/methods/line/ray_minimum.hpp"

namespace tanzen::methods {
namespace {

class ExactSearch : public LineSearch {
  LineStep search(const Ray& ray, double first_step) override {
    const auto [zero, value, slope] = ray.start;
    const RayMinimum minimum =
        rays_.minimize(ray.evaluate, ray.from, value, ray.direction, slope, first_step, ray.longest);
    point.swap(rays_.point);
    const bool is_lower = minimum.value <= value && minimum.step > 0;
    return {is_lower ? minimum.step : 0, minimum.value, minimum.found, minimum.trials};
  }

  RaySearch rays_;
};

} // namespace

std::unique_ptr<LineSearch> exact_search() {
  return std::make_unique<ExactSearch>();
}

} // namespace tanzen::methods
