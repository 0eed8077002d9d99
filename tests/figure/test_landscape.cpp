#include "tanzen/figure/field.hpp"
#include "tanzen/figure/landscape_figure.hpp"
#include "tanzen/figure/render.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <regex>

using namespace tanzen;

namespace {

template <class Wanted>
const Wanted* first_layer(const Panel& panel) {
  for (const Layer& layer : panel.layers) {
    if (const auto* wanted = std::get_if<Wanted>(&layer)) return wanted;
  }
  return nullptr;
}

Figure landscape_of(const char* specification, const LandscapeOptions& options = {}) {
  return landscape_figure(testbed::parse_problem(specification), options);
}

} // namespace

TEST_SUITE("landscapes") {
  TEST_CASE("one variable is a curve over its interval with the known minima on it") {
    const Figure figure = landscape_of("line-shubert");
    REQUIRE(figure.panels.size() == 1);
    const auto* curve = first_layer<LineLayer>(figure.panels[0]);
    CHECK(curve->x.front() == -10);
    CHECK(curve->x.back() == 10);
    const auto* minima = first_layer<PointLayer>(figure.panels[0]);
    CHECK(minima->x.size() == 3);
    CHECK(minima->y[0] == doctest::Approx(-12.0312494));
  }

  TEST_CASE("two variables are contours or a surface, four are six planes, more are one") {
    CHECK(first_layer<FieldLayer>(landscape_of("himmelblau").panels[0]) != nullptr);
    CHECK(first_layer<SurfaceLayer>(landscape_of("himmelblau", {.surface = true}).panels[0]) != nullptr);
    const Figure pairs = landscape_of("shekel-5");
    CHECK(pairs.panels.size() == 6);
    CHECK(pairs.columns == 3);
    CHECK(pairs.panels[5].x.label == "x3");
    CHECK(pairs.panels[5].y.label == "x4");
    CHECK(landscape_of("sphere:dim=7").panels.size() == 1);
    const Figure chosen = landscape_of("sphere:dim=7", {.plane = std::pair<Index, Index>(2, 5)});
    CHECK(chosen.panels[0].y.label == "x6");
  }

  TEST_CASE("a plane goes through the point that was asked for, and marks only the minima in it") {
    const Problem sphere = testbed::problem("sphere", 3);
    const FieldLayer field = plane_field(sphere, Vector{{9, 9, 2}}, 0, 1, 11);
    CHECK(field.values(5, 5) == doctest::Approx(4)); // x1 and x2 are the plane's, x3 is 2
    const Figure through_minimum = landscape_figure(sphere, {.plane = std::pair<Index, Index>(0, 1)});
    const Figure beside_it =
        landscape_figure(sphere, {.through = Vector{{0, 0, 2}}, .plane = std::pair<Index, Index>(0, 1)});
    CHECK(first_layer<PointLayer>(through_minimum.panels[0]) != nullptr);
    CHECK(first_layer<PointLayer>(beside_it.panels[0]) == nullptr);
  }

  TEST_CASE("a pole does not set the axis, decades make it logarithmic, a constant has room around it") {
    const auto axis_of = [](const char* formula) {
      return landscape_figure(Problem::from_formula(formula).region(-2, 2)).panels[0].y;
    };
    const Axis pole = axis_of("1/x");
    CHECK(pole.range->at(1) < 100);
    CHECK(pole.range->at(1) > 1);
    CHECK(axis_of("10^(3*x)").logarithmic);
    const Axis constant = axis_of("0*x + 3");
    CHECK(constant.range->at(0) < 3);
    CHECK(constant.range->at(1) > 3);
    CHECK_FALSE(axis_of("x^2").logarithmic);
  }

  TEST_CASE("a slice begins with the slope of the gradient along it") {
    const Problem valley = testbed::problem("rosenbrock");
    const Vector from{{-1.2, 1}}, to{{1, 1}};
    const Figure figure = slice_figure(valley, from, to);
    std::vector<LineLayer> lines;
    for (const Layer& layer : figure.panels[0].layers) {
      if (const auto* line = std::get_if<LineLayer>(&layer)) lines.push_back(*line);
    }
    REQUIRE(lines.size() == 2);
    const LineLayer &curve = lines[0], &tangent = lines[1];
    CHECK(curve.y.front() == doctest::Approx(24.2));
    CHECK(curve.x.back() == doctest::Approx(2.2));
    const double slope = (tangent.y[1] - tangent.y[0]) / tangent.x[1];
    CHECK(slope == doctest::Approx((curve.y[1] - curve.y[0]) / curve.x[1]).epsilon(0.01));
    const Problem opaque = Problem::black_box(2, [](const Vector& x) { return x.squaredNorm(); });
    CHECK(slice_figure(opaque, from, to).panels[0].layers.size() == 2); // no slope without a gradient
  }

  TEST_CASE("contour lines of a circle lie on circles of the levels' radii") {
    Figure figure = landscape_of("sphere");
    const auto levels = first_layer<FieldLayer>(figure.panels[0])->levels;
    const std::string program = gnuplot_program(figure, ".png");
    const std::size_t begin = program.find("_contours << EOD\n") + 17, end = program.find("EOD", begin);
    const std::string segments = program.substr(begin, end - begin);
    const std::regex segment("([-0-9.e+]+) ([-0-9.e+]+) [-0-9.e+]+ [-0-9.e+]+\n");
    int found = 0;
    for (auto match = std::sregex_iterator(segments.begin(), segments.end(), segment); match != std::sregex_iterator();
         ++match, ++found) {
      const double x = std::stod((*match)[1]), y = std::stod((*match)[2]), value = x * x + y * y;
      const auto nearest = std::ranges::min_element(levels, {}, [&](double level) { return std::abs(level - value); });
      CHECK(std::abs(*nearest - value) <= 0.02 * (1 + value)); // linear along the side of a cell of 1/40
    }
    CHECK(found > 1000);
  }
}
