#include "tanzen/base/errors.hpp"
#include "tanzen/figure/landscape_figure.hpp"
#include "tanzen/figure/render.hpp"
#include "tanzen/figure/solve_figure.hpp"
#include "tanzen/figure/stationary_figure.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/layers.hpp"
#include "support/program.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

using namespace tanzen;
using testing::layers_of;

namespace {

/// A bowl beside a disc and under a line that does not matter.
Problem bowl() {
  return Problem::from_formula("(x - 2)^2 + y^2")
      .region({-3, -3}, {3, 3})
      .start({-1, 2})
      .with_constraint("disc", "x^2 + y^2 <= 1")
      .with_constraint("line", "y <= 2.5");
}

Outcome solved(const Problem& problem, const char* name = "sequential-quadratic") {
  return run(problem, method(name), {.trace = {.points = true}});
}

std::vector<std::string> names_on(const Panel& panel) {
  std::vector<std::string> names;
  for (const TextLayer& layer : layers_of<TextLayer>(panel))
    names.insert(names.end(), layer.texts.begin(), layer.texts.end());
  return names;
}

bool has(const std::vector<std::string>& names, std::string_view name) {
  return std::ranges::find(names, name) != names.end();
}

} // namespace

TEST_SUITE("constraints in figures") {
  TEST_CASE("what is infeasible is veiled, and nothing else, behind edges that lie on the limits and are named") {
    const Figure figure = landscape_figure(bowl());
    const auto veils = layers_of<VeilLayer>(figure.panels[0]);
    REQUIRE(veils.size() == 1);
    const VeilLayer& veil = veils.front();
    for (Index i = 0; i < veil.y.size(); i += 7) {
      for (Index j = 0; j < veil.x.size(); j += 7) {
        const bool is_kept = veil.x[j] * veil.x[j] + veil.y[i] * veil.y[i] <= 1 && veil.y[i] <= 2.5;
        CHECK((veil.covered(i, j) == 0) == is_kept);
      }
    }
    int on_circle = 0;
    for (const LineLayer& line : layers_of<LineLayer>(figure.panels[0])) {
      for (std::size_t k = 0; k < line.x.size(); ++k) {
        if (std::isnan(line.x[k])) continue;
        const double off_circle = std::abs(std::hypot(line.x[k], line.y[k]) - 1), off_line = std::abs(line.y[k] - 2.5);
        CHECK(std::min(off_circle, off_line) <= 1e-3); // a cell is 0.02 wide
        on_circle += off_circle <= 1e-3;
      }
    }
    CHECK(on_circle > 100);
    const auto names = names_on(figure.panels[0]);
    CHECK(has(names, "disc"));
    CHECK(has(names, "line"));
  }

  TEST_CASE("an equality veils nothing, and a plain problem has neither veil nor names") {
    const Problem on_circle =
        Problem::from_formula("x + y").region({-2, -2}, {2, 2}).with_constraint("rim", "x^2 + y^2 = 2");
    const Figure circle = landscape_figure(on_circle);
    CHECK(layers_of<VeilLayer>(circle.panels[0]).front().covered.sum() == 0);
    CHECK(has(names_on(circle.panels[0]), "rim"));
    const Figure plain = landscape_figure(testbed::problem("himmelblau"));
    CHECK(layers_of<VeilLayer>(plain.panels[0]).empty());
    CHECK(names_on(plain.panels[0]).empty());
  }

  TEST_CASE("at a minimum under constraints the arrows of the value and of what holds it add up to nothing") {
    const Outcome outcome = solved(bowl());
    const Figure figure = solve_figure(bowl(), outcome);
    const auto names = names_on(figure.panels[0]);
    CHECK(has(names, "downhill"));
    CHECK(has(names, "disc holds"));
    CHECK_FALSE(has(names, "line holds"));
    Vector sum = Vector::Zero(2);
    int arrows = 0;
    for (const LineLayer& line : layers_of<LineLayer>(figure.panels[0])) {
      const bool is_arrow = line.cased && line.x.size() == 6 && std::isnan(line.x[2]);
      if (!is_arrow) continue;
      ++arrows;
      CHECK(Vector{{line.x[0], line.y[0]}} == outcome.point);
      sum += Vector{{line.x[1] - line.x[0], line.y[1] - line.y[0]}};
    }
    CHECK(arrows == 2);
    CHECK(sum.norm() <= 1e-6);
  }

  TEST_CASE("of more variables violation and multipliers are shown against the iterations") {
    const Problem problem = testbed::problem("hock-schittkowski-113");
    const Figure figure = solve_figure(problem, solved(problem, "interior-point"));
    std::vector<std::string> titles;
    for (const Panel& panel : figure.panels) titles.push_back(panel.title);
    CHECK(has(titles, "violation, where constraints are broken"));
    CHECK(has(titles, "multiplier norm"));
  }

  TEST_CASE("stationary points stand on the contours by kind, and along the curve where its value stands still") {
    const Problem rim = Problem::from_formula("x*y").region({-2, -2}, {2, 2}).with_constraint("rim", "x^2 + y^2 = 2");
    const StationaryPoints found = stationary_points(rim);
    const Figure figure = stationary_figure(rim, found);
    REQUIRE(figure.panels.size() == 2);
    for (const Panel& panel : figure.panels) {
      const auto marks = layers_of<PointLayer>(panel);
      REQUIRE(marks.size() == 2);
      CHECK(marks[0].label == "minimum");
      CHECK(marks[0].x.size() == 2);
      CHECK(marks[1].label == "maximum");
      CHECK(marks[1].x.size() == 2);
    }
    const LineLayer curve = layers_of<LineLayer>(figure.panels[1]).front();
    double length = 0;
    for (const double x : curve.x)
      if (!std::isnan(x)) length = std::max(length, x);
    CHECK(length == doctest::Approx(2 * 3.14159265 * std::sqrt(2.0)).epsilon(1e-3));
    for (const PointLayer& marks : layers_of<PointLayer>(figure.panels[1])) {
      for (const double y : marks.y) CHECK(std::abs(y) == doctest::Approx(1));
    }
    CHECK(stationary_figure(testbed::problem("himmelblau"), stationary_points(testbed::problem("himmelblau")))
              .panels.size() == 1);
    const Problem curve_of_one = Problem::from_formula("x^3 - 3*x").region(-3, 3);
    CHECK(layers_of<PointLayer>(stationary_figure(curve_of_one, stationary_points(curve_of_one)).panels[0]).size() ==
          2);
    const Problem deep = testbed::problem("sphere", 3);
    CHECK_THROWS_WITH_AS((void)stationary_figure(deep, stationary_points(deep)),
                         "stationary points are drawn for one or two variables, and sphere:dim=3 has 3", ProblemError);
  }

  TEST_CASE("both are drawn by the renderer") {
    const testing::TemporaryFolder folder;
    render(solve_figure(bowl(), solved(bowl())), folder / "bowl.svg");
    CHECK(read_file(folder / "bowl.svg").find("disc holds") != std::string::npos);
  }
}
