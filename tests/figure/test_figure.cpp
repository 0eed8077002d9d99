#include "tanzen/base/errors.hpp"
#include "tanzen/figure/field.hpp"
#include "tanzen/figure/render.hpp"
#include "tanzen/figure/solve_figure.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/layers.hpp"
#include "support/program.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <cstdlib>

using namespace tanzen;
using testing::layers_of;
using testing::TemporaryFolder;

namespace {

Figure figure_of(const Problem& problem, const Method& by, RunOptions options = {}) {
  options.trace.points = true;
  return solve_figure(problem, run(problem, by, options));
}

} // namespace

TEST_SUITE("figures") {
  TEST_CASE("one variable gets the curve with its iterates and the values") {
    const Figure figure =
        figure_of(Problem::from_formula("(x - 1)^4 + 1"), method("nelder-mead"), {.start = Coordinates{4}});
    REQUIRE(figure.panels.size() == 2);
    CHECK(layers_of<LineLayer>(figure.panels[0]).front().x.size() == 1000);
    CHECK(layers_of<PointLayer>(figure.panels[0]).size() == 3);
  }

  TEST_CASE("two variables get filled contours with the path, its start, its end and the known minima") {
    const Problem problem = testbed::problem("himmelblau");
    const Figure figure = figure_of(problem, method("nelder-mead"), {.start = Coordinates{0, 0}});
    REQUIRE(figure.panels.size() == 2);
    const auto fields = layers_of<FieldLayer>(figure.panels[0]);
    REQUIRE(fields.size() == 1);
    CHECK(std::is_sorted(fields[0].levels.begin(), fields[0].levels.end()));
    const auto points = layers_of<PointLayer>(figure.panels[0]);
    CHECK(points[0].marker == Marker::cross);
    CHECK(points[0].x.size() == 4);
    CHECK(points[2].marker == Marker::ring);
    CHECK(points[2].x.front() == 0);
    CHECK(points[3].marker == Marker::diamond);
    CHECK(points[3].x.back() == doctest::Approx(3));
    CHECK(figure.caption.find("nelder-mead on himmelblau, 2 variables, from (0, 0), seed 1") == 0);
  }

  TEST_CASE("more variables get value, gradient or step norm, and variables") {
    const Figure by_values = figure_of(testbed::problem("sphere", 4), method("nelder-mead"));
    const Figure by_gradients = figure_of(testbed::problem("sphere", 4), method("gradient-descent"));
    REQUIRE(by_values.panels.size() == 3);
    CHECK(by_values.panels[1].title == "simplex size");
    CHECK(by_gradients.panels[1].title == "gradient norm");
    CHECK(by_gradients.panels[1].y.logarithmic);
    CHECK(layers_of<LineLayer>(by_gradients.panels[2]).size() == 4);
  }

  TEST_CASE("a long run is thinned so that nothing seen changes") {
    const Problem valley = testbed::problem("rosenbrock");
    const Method descent = method("gradient-descent", {{"step", 1e-4}});
    const Outcome outcome = run(valley, descent, {.stop = {.iterations = 9000}, .trace = {.points = true}});
    const Figure figure = solve_figure(valley, outcome);
    const auto points = layers_of<PointLayer>(figure.panels[0]);
    CHECK(points[1].x.size() < 300);
    CHECK(points[1].x.size() > 20);
    const LineLayer line = layers_of<LineLayer>(figure.panels[0]).front();
    CHECK(line.x.size() < 900);
    const Box box = picture_box(valley, outcome.trace);
    // In numbers alone: each of 9,000 rows is compared with each piece of the line.
    const double width = box.width()[0], height = box.width()[1];
    double farthest = 0;
    for (std::size_t row = 0; row < outcome.trace.rows(); ++row) {
      const double x = outcome.trace.point(row)[0], y = outcome.trace.point(row)[1];
      double nearest = 1;
      for (std::size_t k = 1; k < line.x.size(); ++k) {
        const double right = (x - line.x[k - 1]) / width, up = (y - line.y[k - 1]) / height;
        const double along = (line.x[k] - line.x[k - 1]) / width, across = (line.y[k] - line.y[k - 1]) / height;
        const double length = std::max(along * along + across * across, 1e-300);
        const double part = std::clamp((right * along + up * across) / length, 0.0, 1.0);
        nearest = std::min(nearest, std::hypot(right - part * along, up - part * across));
      }
      farthest = std::max(farthest, nearest);
    }
    CHECK(farthest <= 1.0 / 4000); // a third of a point of a picture of 1280
  }

  TEST_CASE("a run's figure moves: each frame shows the rows up to its iteration, and a mark goes along") {
    const Problem valley = testbed::problem("rosenbrock");
    const Outcome outcome = run(valley, method("bfgs"), {.trace = {.points = true}});
    const Figure figure = solve_figure(valley, outcome);
    REQUIRE(figure.frames.size() == outcome.trace.rows());
    CHECK(figure.frames[3] == "iteration 3");
    const LineLayer line = layers_of<LineLayer>(figure.panels[0]).front();
    REQUIRE(line.shown.size() == figure.frames.size());
    CHECK(line.shown[3] == std::array<std::size_t, 2>{0, 4});
    const PointLayer mark = layers_of<PointLayer>(figure.panels[0]).back();
    REQUIRE(mark.shown.size() == figure.frames.size());
    CHECK(mark.shown[5] == std::array<std::size_t, 2>{5, 6});
    CHECK(mark.x[5] == outcome.trace.point(5)[0]);
    CHECK(mark.pointer[5].find("iteration 5: value ") == 0);
    const PointLayer along = layers_of<PointLayer>(figure.panels[1]).back();
    CHECK(along.y[5] == doctest::Approx(outcome.trace.column("value")[5]));
  }

  TEST_CASE("a film of many rows has few frames, evenly spaced, and lasts ten seconds") {
    const Method descent = method("gradient-descent", {{"step", 1e-4}});
    const Figure figure = figure_of(testbed::problem("rosenbrock"), descent, {.stop = {.iterations = 50'000}});
    CHECK(figure.frames.size() == 480);
    CHECK(figure.frames.front() == "iteration 0");
    CHECK(figure.frames.back() == "iteration 50000");
    CHECK(figure.seconds == 10);
    const Figure brief = figure_of(testbed::problem("sphere", 2), method("newton"));
    CHECK(brief.seconds == 0.25 * static_cast<double>(brief.frames.size()));
  }

  TEST_CASE("a value that falls to a limit is shown as its distance from that, the least on a named floor") {
    const Problem bowl = Problem::from_formula("3 + (x - 1)^2 + 4*(y + 2)^2").region({-5, -5}, {5, 5});
    const Figure figure = figure_of(bowl, method("gradient-descent"), {.start = Coordinates{4, 4}});
    const Panel& panel = figure.panels.back();
    CHECK(panel.title == "distance from the best value found, 3");
    CHECK(panel.y.logarithmic);
    const auto texts = layers_of<TextLayer>(panel);
    REQUIRE(texts.size() == 1);
    CHECK(texts[0].texts[0].find("at most ") == 0);
    const LineLayer line = layers_of<LineLayer>(panel).front();
    const double floor = *std::ranges::min_element(line.y);
    CHECK(floor > 1e-15);
    CHECK(line.y.back() == floor); // the best of all is no distance from itself
    CHECK((*panel.y.range)[0] < floor);
  }

  TEST_CASE("the levels of a field are round numbers") {
    for (const char* name : {"himmelblau", "rosenbrock", "sphere", "ackley"}) {
      CAPTURE(name);
      const Problem problem = testbed::problem(name);
      const auto levels = landscape_field(problem, problem.region(), 120).levels;
      CHECK(levels.size() >= 6);
      CHECK(levels.size() <= 20);
      for (const double level : levels)
        CHECK(level == doctest::Approx(std::stod(fmt::format("{:.2g}", level))).epsilon(1e-9));
    }
    const auto ackley = landscape_field(testbed::problem("ackley"), testbed::problem("ackley").region(), 120).levels;
    for (const double level : ackley) CHECK(level == std::round(level));
  }

  TEST_CASE("the picture's box is the region, widened for a path that leaves it, within limits") {
    const Problem problem = testbed::problem("sphere", 2);
    RunOptions options{.start = Coordinates{9, 0}, .stop = {.iterations = 3}, .trace = {.points = true}};
    const Box wide = picture_box(problem, run(problem, method("nelder-mead"), options).trace);
    CHECK(wide.upper[0] > 9);
    CHECK(wide.upper[1] < 6);
    options.start = Coordinates{900, 0};
    const Box far = picture_box(problem, run(problem, method("nelder-mead"), options).trace);
    CHECK(far.upper[0] > 900); // the start is always held
    CHECK(far.upper[0] < 1000);
    options.start = Coordinates{5.12, 0};
    CHECK(picture_box(problem, run(problem, method("nelder-mead"), options).trace).upper[0] > 5.5);
    options.start = Coordinates{1, 1};
    options.stop = {.iterations = 30, .gradient_tolerance = std::nullopt};
    const Outcome away = run(problem, method("gradient-descent", {{"step", 2}}), options);
    CHECK(away.last_point.norm() > 1e5);
    CHECK(picture_box(problem, away.trace).upper[0] < 25); // one that runs away is not followed
    const Problem formula = Problem::from_formula("2*x^2 + 0.7*y^2");
    options.start = Coordinates{0.02, 0.01};
    CHECK(picture_box(formula, run(formula, method("gradient-descent"), options).trace).upper[0] < 0.1);
  }

  TEST_CASE("levels are logarithmic for values over many decades, linear otherwise, none for a constant") {
    const auto levels = [](const char* name) {
      return landscape_field(testbed::problem(name), testbed::problem(name).region(), 60).levels;
    };
    const auto valley = levels("rosenbrock"), rugged = levels("rastrigin");
    CHECK(valley[5] / valley[4] == doctest::Approx(valley[10] / valley[9]).epsilon(0.3));
    CHECK(valley.back() / valley.front() > 1000);
    CHECK(rugged[5] - rugged[4] == doctest::Approx(rugged[10] - rugged[9]));
    CHECK(contour_levels(Matrix::Constant(5, 5, 3.0), Sense::minimize).empty());
    CHECK(contour_levels(Matrix::Constant(5, 5, NAN), Sense::minimize).empty());
    const auto hill = contour_levels(-Matrix::Random(9, 9).cwiseAbs2(), Sense::maximize);
    CHECK(std::is_sorted(hill.begin(), hill.end()));
  }

  TEST_CASE("png, svg and pdf are drawn by gnuplot, whole or not at all") {
    const TemporaryFolder folder;
    const Figure figure = figure_of(testbed::problem("beale"), method("nelder-mead"), {.start = Coordinates{1, 1}});
    const std::pair<const char*, const char*> kinds[] = {{"a.png", "\x89PNG"}, {"a.svg", "<?xml"}, {"a.pdf", "%PDF"}};
    for (const auto& [name, magic] : kinds) {
      render(figure, folder / name);
      const std::string content = read_file(folder / name);
      CHECK(content.starts_with(magic));
      CHECK(content.size() > 5000);
    }
    CHECK(std::distance(std::filesystem::directory_iterator(folder.path()), {}) == 3);
    CHECK_THROWS_WITH_AS(render(figure, folder / "a.bmp"), doctest::Contains(".png, .svg, .pdf, .html, .gif or .mp4"),
                         InputError);
    CHECK_THROWS_WITH_AS(render(figure, folder / "none/a.png"), doctest::Contains("No such file or directory"),
                         FileError);
  }

  TEST_CASE("names from users cannot break out of their quotes") {
    Figure figure = figure_of(Problem::from_formula("x^2").named("it's `a` \"trap\"; set output '/nowhere'"),
                              method("nelder-mead"));
    const TemporaryFolder folder;
    render(figure, folder / "a.png");
    CHECK(std::filesystem::file_size(folder / "a.png") > 5000);
  }

  TEST_CASE("functions with holes, poles, one value and huge values still give a picture") {
    const TemporaryFolder folder;
    for (const char* formula : {"sqrt(x) + y^2", "1/x", "1/x + 1/y", "0*x + 3", "0*x + 0*y + 3", "exp(20*x) + y",
                                "log(x)", "1e300*x^2 + y"}) {
      CAPTURE(formula);
      const Problem problem =
          Problem::from_formula(formula).region(Vector::Constant(Problem::from_formula(formula).dimension(), -2).eval(),
                                                Vector::Constant(Problem::from_formula(formula).dimension(), 2).eval());
      render(figure_of(problem, method("nelder-mead"), {.stop = {.iterations = 20}}), folder / "a.png");
      CHECK(std::filesystem::file_size(folder / "a.png") > 5000);
    }
  }

  TEST_CASE("without gnuplot the message says what to install") {
    const TemporaryFolder folder;
    const std::string path = std::getenv("PATH");
    setenv("PATH", folder.path().c_str(), 1);
    const Figure figure = figure_of(Problem::from_formula("x^2"), method("nelder-mead"));
    CHECK_THROWS_WITH_AS(render(figure, folder / "a.png"), doctest::Contains("install the package gnuplot-nox"),
                         FileError);
    setenv("PATH", path.c_str(), 1);
    CHECK_FALSE(std::filesystem::exists(folder / "a.png"));
  }
}
