#include "tanzen/methods/line/line_search.hpp"

#include "line_rules.hpp"

namespace tanzen::methods {

Setting& add_line_rule(Settings& list, LineRule& rule) {
  return list
      .add("line", rule,
           {{"wolfe", LineRule::wolfe},
            {"more-thuente", LineRule::more_thuente},
            {"hager-zhang", LineRule::hager_zhang},
            {"exact", LineRule::exact}})
      .means("the search along a direction");
}

void LineSettings::settings(Settings& list) {
  add_line_rule(list, rule);
  list.add("decrease", decrease).above(0).below(0.5).means("part of the predicted decrease that a step must reach");
  list.add("curvature", curvature).above(0).below(1).means("part of the slope that a step may leave");
}

LineSearch::Trial LineSearch::look(const Ray& ray, double step) {
  point = ray.from + step * ray.direction;
  ray.evaluate.bounds().project(point);
  const auto [value, gradient] = ray.evaluate.value_and_gradient(point);
  return {step, value, gradient.dot(ray.direction)};
}

LineStep LineSearch::find(Evaluator& evaluate, const Vector& from, double value, const Vector& direction, double slope,
                          double first_step, double longest) {
  if (!(slope < 0)) return {0, value, false, 0};
  LineStep found = search({evaluate, from, direction, {0, value, slope}, longest}, std::min(first_step, longest));
  if (patience_.is_lost_after(value, found.value)) found.step = 0;
  return found;
}

std::unique_ptr<LineSearch> make_line_search(const LineSettings& settings) {
  switch (settings.rule) {
  case LineRule::more_thuente: return more_thuente_search(settings);
  case LineRule::hager_zhang: return hager_zhang_search(settings);
  case LineRule::exact: return exact_search();
  case LineRule::wolfe: break;
  }
  return wolfe_search(settings);
}

FirstLength::FirstLength(const Problem& problem) : size_(0) {
  for (Index i = 0; i < problem.dimension(); ++i) size_ += problem.typical_size(i) * problem.typical_size(i);
  size_ = std::sqrt(size_ / static_cast<double>(problem.dimension()));
}

} // namespace tanzen::methods
