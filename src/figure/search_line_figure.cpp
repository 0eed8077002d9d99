#include "tanzen/figure/search_line_figure.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/landscape_figure.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace tanzen {

SearchLine search_line(const Problem& problem, const Method& method, RunOptions options, std::int64_t iteration) {
  std::vector<Vector> looked;
  const Problem listened = problem.observed([&](const Vector& point, double) { looked.push_back(point); });
  options.stop.iterations = iteration;
  Run run(listened, method, options);
  SearchLine line;
  while (run.iterations() < iteration) {
    line.from = run.point();
    looked.clear();
    const std::int64_t before = run.iterations();
    run.step();
    if (run.iterations() == before || (run.is_over() && run.iterations() < iteration)) {
      throw InputError(fmt::format("{} ends after {}: it has no iteration {}", method.label(),
                                   counted(run.iterations(), "iteration"), iteration));
    }
  }
  line.to = run.point();
  const double length = (line.to - line.from).norm();
  if (!(length > 0)) throw InputError(fmt::format("iteration {} does not move: it has no line", iteration));
  const Vector direction = (line.to - line.from) / length;
  for (const Vector& point : looked) {
    const Vector away = point - line.from;
    const double place = away.dot(direction);
    const bool is_on_line = (away - place * direction).norm() <= 1e-6 * (away.norm() + 1e-12 * length);
    if (is_on_line && place > 0) line.places.push_back(place);
  }
  return line;
}

Figure search_line_figure(const Problem& problem, const SearchLine& line) {
  const double length = (line.to - line.from).norm();
  // Trials far out would leave no room for what was found; they stay in the count.
  constexpr double most_lengths = 6;
  double farthest = length;
  for (const double place : line.places) {
    if (place <= most_lengths * length) farthest = std::max(farthest, place);
  }
  const Vector direction = (line.to - line.from) / length;
  Figure figure = slice_figure(problem, line.from, line.from + 1.15 * farthest * direction);
  figure.title = fmt::format("{}: what one iteration looked at", problem.name());
  figure.caption +=
      fmt::format("; {} on the line, the step has length {}",
                  counted(static_cast<std::int64_t>(line.places.size()), "trial"), short_number(length, 4));
  PointLayer trials{.color = std::string(series_colors[3]), .size = 1.2, .label = "trials"};
  for (const double place : line.places) {
    if (place > farthest) continue;
    trials.x.push_back(place);
    trials.y.push_back(problem.value(Vector(line.from + place * direction)));
  }
  Panel& panel = figure.panels.front();
  panel.layers.emplace_back(std::move(trials));
  panel.layers.emplace_back(PointLayer{
      .x = {length}, .y = {problem.value(line.to)}, .marker = Marker::diamond, .size = 1.7, .label = "step taken"});
  return figure;
}

} // namespace tanzen
