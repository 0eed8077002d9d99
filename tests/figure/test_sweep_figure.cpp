#include "tanzen/base/errors.hpp"
#include "tanzen/figure/render.hpp"
#include "tanzen/figure/search_line_figure.hpp"
#include "tanzen/figure/sweep_figure.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/layers.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <set>

using namespace tanzen;
using testing::layers_of;

namespace {

const Problem long_bowl = Problem::from_formula("2*(x - 1)^2 + 0.7*(y + 2)^2").named("bowl");

RunOptions forty_iterations() {
  return {.start = Coordinates{6, -9}, .stop = {.iterations = 40, .gradient_tolerance = {}}, .trace = {.points = true}};
}

Matrix grid_of_starts(Index columns, Index rows) {
  Matrix starts(2, columns * rows);
  for (Index i = 0; i < rows; ++i) {
    for (Index j = 0; j < columns; ++j) {
      starts(0, i * columns + j) = -6 + 12.0 * static_cast<double>(j) / static_cast<double>(columns - 1);
      starts(1, i * columns + j) = -6 + 12.0 * static_cast<double>(i) / static_cast<double>(rows - 1);
    }
  }
  return starts;
}

} // namespace

TEST_SUITE("figures of sweeps") {
  TEST_CASE("one setting of a problem of two variables: a panel a value, same axes and levels, the values below") {
    const auto varied = VariedSetting::parse("step=0.52,0.485,0.3,0.01");
    const auto outcomes = sweep_setting(long_bowl, method("gradient-descent"), varied, forty_iterations());
    const Figure figure = sweep_figure(long_bowl, varied, outcomes);
    REQUIRE(figure.panels.size() == 5);
    CHECK(figure.last_panel_below);
    CHECK(figure.panels[0].title == "step 0.52: leaves");
    CHECK(figure.panels[1].title == "step 0.485: flips");
    CHECK(figure.panels[2].title == "step 0.3: goes home");
    CHECK(figure.panels[3].title == "step 0.01: crawls");
    const auto first = layers_of<FieldLayer>(figure.panels[0]);
    REQUIRE(first.size() == 1);
    for (std::size_t k = 1; k < 4; ++k) {
      CHECK(figure.panels[k].x.range == figure.panels[0].x.range);
      CHECK(figure.panels[k].y.range == figure.panels[0].y.range);
      CHECK(layers_of<FieldLayer>(figure.panels[k]).front().levels == first.front().levels);
    }
    CHECK(layers_of<LineLayer>(figure.panels[4]).size() == 4);
    CHECK(layers_of<LineLayer>(figure.panels[4])[1].label == "step 0.485");
  }

  TEST_CASE("more variables, or more values than panels fit: the values alone") {
    const Problem many = testbed::problem("ellipsoid", 5);
    const auto varied = VariedSetting::parse("step=0.001,0.002");
    RunOptions options;
    options.stop.iterations = 20;
    CHECK(sweep_figure(many, varied, sweep_setting(many, method("gradient-descent"), varied, options)).panels.size() ==
          1);
    const auto twenty = VariedSetting::parse("step=1e-3..1e-1:20");
    const Figure crowded = sweep_figure(
        long_bowl, twenty, sweep_setting(long_bowl, method("gradient-descent"), twenty, forty_iterations()));
    REQUIRE(crowded.panels.size() == 1);
    const auto lines = layers_of<LineLayer>(crowded.panels[0]);
    REQUIRE(lines.size() == 20);
    std::set<std::pair<std::string, int>> looks;
    for (const LineLayer& line : lines) looks.insert({line.color, line.dash});
    CHECK(looks.size() == 20); // no two lines look the same
  }

  TEST_CASE("one step to the minimum needs no logarithmic axis, and a gap of zero is shown") {
    const Problem known = testbed::problem("sphere", 2);
    const auto varied = VariedSetting::parse("step=0.5");
    RunOptions options = forty_iterations();
    const Figure figure =
        sweep_figure(known, varied, sweep_setting(known, method("gradient-descent"), varied, options));
    const auto line = layers_of<LineLayer>(figure.panels.back()).front();
    CHECK(line.y.front() == doctest::Approx(117));
    CHECK(line.y[1] == 0); // the step 0.5 reaches the minimum exactly
    CHECK(!figure.panels.back().y.logarithmic);
  }

  TEST_CASE("a map of two settings has a cell a pair, in equal ratios where the values are, none where runs diverged") {
    const auto x = VariedSetting::parse("step=1e-3..1e1:5"), y = VariedSetting::parse("momentum=0..0.9:4");
    const Problem problem = testbed::problem("sphere", 2);
    RunOptions options;
    options.stop.evaluations = 200;
    const auto cells = sweep_settings(problem, method("momentum"), x, y, options);
    const Figure figure = sweep_map(problem, method("momentum"), x, y, cells);
    const FieldLayer field = layers_of<FieldLayer>(figure.panels.front()).front();
    CHECK(field.values.rows() == 4);
    CHECK(field.values.cols() == 5);
    CHECK(field.x[0] == doctest::Approx(-3));
    CHECK(field.x[4] == doctest::Approx(1));
    CHECK(field.y[3] == doctest::Approx(0.9));
    CHECK(figure.panels.front().x.label == "log10 of step");
    CHECK((*figure.panels.front().x.range)[0] == doctest::Approx(-3.5)); // half a cell beyond the first
    CHECK(std::isnan(field.values(0, 4)));                               // the step 10 leaves
    CHECK(field.values(0, 2) >= 0);
    CHECK_FALSE(field.lines);
  }

  TEST_CASE(
      "a map of starts colours each by where it ends, darker after more iterations, grey where it did not converge") {
    const Problem problem = testbed::problem("himmelblau");
    const Matrix starts = grid_of_starts(12, 10);
    const auto cells = sweep_starts(problem, method("newton"), starts, {});
    const Figure figure = basin_map(problem, method("newton"), starts, 12, cells);
    REQUIRE(figure.panels.size() == 2);
    const PixelLayer ends = layers_of<PixelLayer>(figure.panels[0]).front();
    CHECK(ends.x.size() == 12);
    CHECK(ends.y.size() == 10);
    CHECK(ends.colors.size() == 120);
    CHECK(layers_of<PointLayer>(figure.panels[0]).front().x.size() == 4); // a mark at each end

    std::vector<int> group_of;
    (void)group_ends(problem, cells, group_of);
    const auto lightness = [&](std::size_t k) { return ends.colors[k][0] + ends.colors[k][1] + ends.colors[k][2]; };
    for (std::size_t a = 0; a < cells.size(); ++a) {
      for (std::size_t b = 0; b < cells.size(); ++b) {
        if (group_of[a] == group_of[b] && cells[a].iterations < cells[b].iterations)
          CHECK(lightness(a) >= lightness(b));
      }
    }

    RunOptions short_runs;
    short_runs.stop.iterations = 1;
    const auto lost = sweep_starts(problem, method("newton"), starts, short_runs);
    const PixelLayer grey =
        layers_of<PixelLayer>(basin_map(problem, method("newton"), starts, 12, lost).panels[0]).front();
    CHECK(std::ranges::count(grey.colors, std::array<std::uint8_t, 3>{0x2b, 0x2f, 0x36}) > 100);
  }

  TEST_CASE("several methods on one landscape: a path each in its colour, the values against the evaluations") {
    const Problem valley = testbed::problem("rosenbrock");
    std::vector<Outcome> outcomes;
    for (const char* name : {"bfgs", "newton", "nelder-mead"})
      outcomes.push_back(run(valley, method(name), {.start = Coordinates{-1.2, 1}, .trace = {.points = true}}));
    const Figure figure = paths_figure(valley, outcomes);
    REQUIRE(figure.panels.size() == 2);
    const auto paths = layers_of<LineLayer>(figure.panels[0]), values = layers_of<LineLayer>(figure.panels[1]);
    REQUIRE(paths.size() == 3);
    REQUIRE(values.size() == 4);
    CHECK(values[3].color == axis_color); // the floor, where nothing can be told apart
    for (std::size_t k = 0; k < 3; ++k) {
      CHECK(paths[k].color == values[k].color);
      CHECK(values[k].label == outcomes[k].method_label);
      CHECK(values[k].x.back() == static_cast<double>(outcomes[k].counts[Spent::evaluations]));
    }
    CHECK(figure.panels[1].x.label == "evaluations");
    const auto words = layers_of<TextLayer>(figure.panels[0]);
    REQUIRE(words.size() == 1);
    CHECK(words[0].texts == std::vector<std::string>{"3 end here"});
    std::set<double> sizes;
    for (const PointLayer& points : layers_of<PointLayer>(figure.panels[0])) {
      if (points.marker == Marker::diamond) sizes.insert(-points.size);
    }
    CHECK(sizes.size() == 3); // one inside the other
    CHECK(figure.frames.back() == fmt::format("{} evaluations", outcomes[2].counts[Spent::evaluations]));
  }

  TEST_CASE("paths on a surface lie just above it, and are seen from where it is looked at") {
    const Problem valley = testbed::problem("rosenbrock");
    const RunOptions options{.start = Coordinates{-1.8, 2.2}, .trace = {.points = true}};
    const std::vector<Outcome> outcomes{run(valley, method("bfgs"), options)};
    const Figure figure = paths_figure(valley, outcomes, true);
    const Panel& panel = figure.panels[0];
    const SurfaceLayer surface = layers_of<SurfaceLayer>(panel).front();
    CHECK(surface.field.values.maxCoeff() == doctest::Approx((*panel.z.range)[1]));
    CHECK(!panel.z.logarithmic);
    const auto lines = layers_of<LineLayer>(panel);
    REQUIRE(lines.size() == 2);
    const double height = (*panel.z.range)[1] - (*panel.z.range)[0];
    for (std::size_t k = 0; k < lines[0].x.size(); ++k) {
      const double value = valley.value(Vector{{lines[0].x[k], lines[0].y[k]}});
      CHECK(std::abs(lines[0].z[k] - value) < 0.03 * height);
      CHECK(lines[1].z[k] == (*panel.z.range)[0]); // its shadow
    }
    CHECK(seen_part(panel, panel.view) == 1);
    CHECK(seen_part(panel, {.azimuth = 270, .elevation = 3}) < 0.9);
  }
}

TEST_SUITE("figures of a search line") {
  TEST_CASE("the trials of an iteration are those that its table counts") {
    const Problem valley = testbed::problem("rosenbrock");
    const Method searched = method("gradient-descent", {{"rule", "wolfe"}, {"step", 1}});
    const RunOptions options{.start = Coordinates{-1.2, 1}, .trace = {.points = true}};
    for (const std::int64_t iteration : {1, 2, 5}) {
      CAPTURE(iteration);
      RunOptions limited = options;
      limited.stop.iterations = iteration;
      const Outcome outcome = run(valley, searched, limited);
      const SearchLine line = search_line(valley, searched, options, iteration);
      CHECK(line.to == outcome.last_point);
      CHECK(static_cast<double>(line.places.size()) == outcome.trace.column("trials").back());
      CHECK(line.places.back() == doctest::Approx((line.to - line.from).norm()));
      const Figure figure = search_line_figure(valley, line);
      CHECK(figure.caption.find(fmt::format("{} trial", line.places.size())) != std::string::npos);
      for (const PointLayer& points : layers_of<PointLayer>(figure.panels.front())) {
        for (const double x : points.x) CHECK(x <= (*figure.panels.front().x.range)[1]);
      }
    }
  }

  TEST_CASE("an iteration that there is not, or that does not move, has no line") {
    const Problem bowl = testbed::problem("sphere", 2);
    CHECK_THROWS_WITH_AS((void)search_line(bowl, method("newton"), {.start = Coordinates{3, 1}}, 2),
                         doctest::Contains("it has no iteration 2"), InputError);
    CHECK_THROWS_AS((void)search_line(bowl, method("bfgs"), {.start = Coordinates{0, 0}}, 1), InputError);
  }
}
