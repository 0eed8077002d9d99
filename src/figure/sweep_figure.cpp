#include "tanzen/figure/sweep_figure.hpp"

#include "tanzen/analysis/convergence.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/comparison_figures.hpp"
#include "tanzen/figure/field.hpp"
#include "tanzen/figure/solve_figure.hpp"
#include "tanzen/numeric/constants.hpp"

#include "path_layers.hpp"
#include "shown_values.hpp"
#include "surface_panel.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace tanzen {
namespace {

/// The box that all paths are shown in: that of each, but of one that diverged only where all did.
Box shared_box(const Problem& problem, const std::vector<Outcome>& outcomes) {
  std::optional<Box> shared;
  for (const Outcome& outcome : outcomes) {
    if (outcome.status == Status::diverged && !problem.has_region()) continue;
    const Box box = picture_box(problem, outcome.trace);
    shared = shared ? Box{shared->lower.cwiseMin(box.lower), shared->upper.cwiseMax(box.upper)} : box;
  }
  return shared.value_or(picture_box(problem, outcomes.front().trace));
}

std::string ending(const Problem& problem, const Outcome& outcome) {
  const PathCharacter character = path_character(outcome.trace, outcome.converged(), sign_of(problem.value_sense()));
  return character == PathCharacter::unclear ? std::string(status_word(outcome.status))
                                             : std::string(path_word(character));
}

Panel path_panel(const Problem& problem, const Outcome& outcome, const FieldLayer& field, const Box& box) {
  Panel panel = landscape_panel(problem, box, field);
  // A path that leaves is cut a little outside the picture.
  std::vector<double> x = coordinate(outcome.trace, 0), y = coordinate(outcome.trace, 1);
  const Vector size = box.width();
  for (std::size_t row = 0; row < x.size(); ++row) {
    const bool is_far =
        !(std::abs(x[row] - box.center()[0]) < 20 * size[0]) || !(std::abs(y[row] - box.center()[1]) < 20 * size[1]);
    if (!is_far) continue;
    x.resize(row);
    y.resize(row);
    break;
  }
  if (!x.empty()) add_path(panel, x, y, box, outcome.trace, {});
  clear_labels(panel); // small panels have no room for a key
  return panel;
}

/// Values, or gaps where the best is known, of all runs against a column that counts.
Panel values_panel(const std::vector<std::string>& labels, const std::vector<Outcome>& outcomes, const Film& film,
                   Trace::Column against = Trace::iteration) {
  Panel panel;
  std::vector<std::vector<double>> values;
  for (const Outcome& outcome : outcomes) values.push_back(outcome.trace.column("value"));
  ShownValues shown = shown_values(std::move(values), outcomes.front().best_known, sign_of(outcomes.front().sense));
  panel.title = shown.title;
  double longest = 1;
  for (std::size_t k = 0; k < outcomes.size(); ++k) {
    const auto counted = outcomes[k].trace.column(Trace::fixed_names()[against]);
    longest = std::max(longest, counted.back());
    const MethodStyle style = method_style(k);
    panel.layers.emplace_back(LineLayer{.x = counted,
                                        .y = shown.series[k],
                                        .color = style.color,
                                        .dash = style.dash,
                                        .label = labels[k],
                                        .series = labels[k]});
    add_moving_mark(panel, counted, shown.series[k], outcomes[k].trace, film, style.color, labels[k]);
  }
  panel.x = {.label = against == Trace::iteration ? "iteration" : "evaluations",
             .whole_numbers = true,
             .range = std::array{0.0, longest}};
  panel.y.logarithmic = shown.logarithmic;
  add_floor(panel, shown, 0, longest);
  return panel;
}

std::vector<double> numbers_of(const VariedSetting& varied) {
  std::vector<double> numbers;
  for (const std::string& value : varied.values) {
    const auto number = read_number(value);
    if (!number) return {};
    numbers.push_back(*number);
  }
  return numbers;
}

/// The settings' values as an axis: by number, or by its logarithm where they rise in equal ratios.
struct MapAxis {
  Vector places;
  std::string label;

  /// Half a cell beyond the first and the last place.
  [[nodiscard]] std::array<double, 2> range() const {
    const double half = 0.5 * std::abs(places[1] - places[0]);
    return {places.minCoeff() - half, places.maxCoeff() + half};
  }

  explicit MapAxis(const VariedSetting& varied) : label(varied.name) {
    std::vector<double> numbers = numbers_of(varied);
    const auto count = static_cast<Index>(varied.values.size());
    places = Vector::LinSpaced(count, 1, static_cast<double>(count));
    if (numbers.size() < 2) return;
    const bool is_log = numbers.front() > 0 && numbers.back() > 10 * numbers.front();
    const auto place = [&](double number) { return is_log ? std::log10(number) : number; };
    places = Vector::LinSpaced(count, place(numbers.front()), place(numbers.back()));
    if (is_log) label = fmt::format("log10 of {}", varied.name);
  }
};

} // namespace

Figure sweep_figure(const Problem& problem, const VariedSetting& varied, const std::vector<Outcome>& outcomes) {
  constexpr std::size_t most_panels = 12;
  std::vector<std::string> labels;
  for (const std::string& value : varied.values) labels.push_back(fmt::format("{} {}", varied.name, value));
  Figure figure;
  figure.title = fmt::format("{}, {}: {} varied", outcomes.front().problem, outcomes.front().method, varied.name);
  figure.caption = fmt::format("from {}, seed {}", point_text(outcomes.front().start, 4, 4), outcomes.front().seed);
  const bool has_paths = problem.dimension() == 2 && outcomes.front().trace.has_points();
  if (!has_paths || outcomes.size() > most_panels) {
    figure.panels.push_back(values_panel(labels, outcomes, {}));
    return figure;
  }
  const Box box = shared_box(problem, outcomes);
  constexpr Index resolution = 200;
  FieldLayer field = landscape_field(problem, box, resolution);
  field.scale = false;
  for (std::size_t k = 0; k < outcomes.size(); ++k) {
    figure.panels.push_back(path_panel(problem, outcomes[k], field, box));
    figure.panels.back().title = fmt::format("{}: {}", labels[k], ending(problem, outcomes[k]));
  }
  figure.columns = std::min<std::size_t>(4, outcomes.size());
  figure.panels.push_back(values_panel(labels, outcomes, {}));
  figure.last_panel_below = true;
  return figure;
}

namespace {

/// Words where several runs end within a hundredth of the picture: how many they are.
TextLayer shared_ends(const std::vector<Outcome>& outcomes, const Box& box) {
  constexpr double near = 0.01, beside = 0.02;
  const Vector size = box.width();
  TextLayer words{.align = TextLayer::Align::left, .on_ground = true};
  std::vector<std::size_t> left(outcomes.size());
  std::iota(left.begin(), left.end(), std::size_t{0});
  while (!left.empty()) {
    const Vector end = outcomes[left.front()].last_point;
    const auto is_there = [&](std::size_t k) {
      return ((outcomes[k].last_point - end).cwiseQuotient(size)).norm() < near;
    };
    const auto count = std::ranges::count_if(left, is_there);
    std::erase_if(left, is_there);
    if (count == 0) left.erase(left.begin()); // it has no place
    if (count < 2 || !box.contains(end)) continue;
    words.x.push_back(end[0] + beside * size[0]);
    words.y.push_back(end[1] + beside * size[1]);
    words.texts.push_back(fmt::format("{} end here", count));
  }
  return words;
}

/// Paths with their ends, those of the first methods larger, so that none hides another.
void add_paths(Panel& panel, const std::vector<Outcome>& outcomes, const Box& box, const Film& film, bool surface) {
  for (std::size_t k = 0; k < outcomes.size(); ++k) {
    const Trace& trace = outcomes[k].trace;
    const std::vector<double> x = coordinate(trace, 0), y = coordinate(trace, 1);
    const double rank = outcomes.size() > 1 ? static_cast<double>(k) / static_cast<double>(outcomes.size() - 1) : 0;
    const PathStyle style{.color = method_style(k).color,
                          .width = 2.4,
                          .series = outcomes[k].method_label,
                          .dotted = false,
                          .mark_size = 2.3 - 1.4 * rank};
    if (surface)
      add_path_on_surface(panel, x, y, trace, film, style);
    else
      add_path(panel, x, y, box, trace, film, style);
  }
}

} // namespace

Figure paths_figure(const Problem& problem, const std::vector<Outcome>& outcomes, bool surface) {
  constexpr Index surface_resolution = 161, resolution = 300;
  std::vector<std::string> labels;
  std::vector<const Trace*> traces;
  for (const Outcome& outcome : outcomes) {
    labels.push_back(outcome.method_label);
    traces.push_back(&outcome.trace);
  }
  const Film film(Trace::evaluations, traces);
  Figure figure;
  figure.title = fmt::format("{}: {}", outcomes.front().problem, joined(labels, ", "));
  figure.caption = fmt::format("from {}, seed {}", point_text(outcomes.front().start, 4, 4), outcomes.front().seed);
  figure.frames = film.names();
  figure.seconds = film.seconds();
  if (problem.dimension() == 2 && outcomes.front().trace.has_points()) {
    const Box box = shared_box(problem, outcomes);
    FieldLayer field = landscape_field(problem, box, surface ? surface_resolution : resolution);
    field.scale = false;
    Panel panel = surface ? surface_over(problem, box, std::move(field)) : landscape_panel(problem, box, field);
    panel.width = surface ? 1.6 : 1.2;
    add_paths(panel, outcomes, box, film, surface);
    if (surface)
      show_paths(panel);
    else if (TextLayer words = shared_ends(outcomes, box); !words.x.empty())
      panel.layers.emplace_back(std::move(words));
    clear_labels(panel);
    figure.panels.push_back(std::move(panel));
  }
  figure.panels.push_back(values_panel(labels, outcomes, film, Trace::evaluations));
  figure.panels.back().key_inside = true;
  return figure;
}

Figure sweep_map(const Problem& problem, const Method& method, const VariedSetting& first, const VariedSetting& second,
                 const std::vector<SweepCell>& cells) {
  const MapAxis x(first), y(second);
  FieldLayer field{.x = x.places, .y = y.places, .values = Matrix(y.places.size(), x.places.size()), .levels = {}};
  const bool has_gap = problem.best_value().has_value();
  for (Index i = 0; i < field.values.rows(); ++i) {
    for (Index j = 0; j < field.values.cols(); ++j) {
      const SweepCell& cell = cells[static_cast<std::size_t>(i * field.values.cols() + j)];
      const double value = has_gap ? std::max(cell.gap, 1e-16) : cell.value;
      const bool is_lost = cell.status == Status::diverged || !std::isfinite(value);
      field.values(i, j) = is_lost ? not_known : value;
    }
  }
  field.levels = contour_levels(field.values, has_gap ? Sense::minimize : problem.value_sense());
  field.lines = false;
  Panel panel;
  panel.title = has_gap ? "gap reached; white where the run diverged" : "value reached; white where the run diverged";
  panel.x.label = x.label;
  panel.y.label = y.label;
  panel.x.range = x.range();
  panel.y.range = y.range();
  panel.layers.emplace_back(std::move(field));
  Figure figure;
  figure.title = fmt::format("{}, {}: {} and {} varied", problem.name(), method.name(), first.name, second.name);
  figure.caption = fmt::format("{} on {}: {} runs", method.label(), problem.name(), cells.size());
  figure.panels.push_back(std::move(panel));
  return figure;
}

} // namespace tanzen
