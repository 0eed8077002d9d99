#include "tanzen/base/errors.hpp"
#include "tanzen/figure/comparison_figures.hpp"
#include "tanzen/figure/ends_figure.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/layers.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

using namespace tanzen;
using testing::layers_of;

namespace {

/// Some runs of each method from random starts.
std::vector<std::vector<Outcome>> runs_of(const Problem& problem, const std::vector<std::string>& methods,
                                          int repeats) {
  std::vector<std::vector<Outcome>> outcomes;
  for (const std::string& name : methods) {
    auto& runs = outcomes.emplace_back();
    for (int k = 0; k < repeats; ++k)
      runs.push_back(run(problem, standard_methods().parse(name),
                         {.seed = 3 + static_cast<std::uint64_t>(k), .stop = {.evaluations = 300}}));
  }
  return outcomes;
}

} // namespace

TEST_SUITE("figures of ends") {
  TEST_CASE("on the landscape a diamond for each run within it, beside it the gaps from the best run to the worst") {
    const auto outcomes = runs_of(testbed::problem("himmelblau"), {"nelder-mead", "random-search"}, 8);
    const Figure figure = ends_figure(testbed::problem("himmelblau"), outcomes);
    REQUIRE(figure.panels.size() == 2);
    const Panel& reached = figure.panels[1];
    const auto lines = layers_of<LineLayer>(reached);
    REQUIRE(lines.size() == 3);
    CHECK(lines[2].color == axis_color); // the floor of gaps that cannot be told apart
    for (std::size_t m = 0; m < 2; ++m) {
      CAPTURE(m);
      CHECK(lines[m].color == method_style(m).color);
      CHECK(lines[m].dash == method_style(m).dash);
      CHECK(std::ranges::is_sorted(lines[m].y));
      CHECK(lines[m].x == std::vector<double>{1, 2, 3, 4, 5, 6, 7, 8});
      std::vector<double> gaps;
      for (const Outcome& outcome : outcomes[m]) gaps.push_back(std::max(*outcome.gap, lines[2].y[0]));
      std::ranges::sort(gaps);
      CHECK(lines[m].y == gaps);
      REQUIRE(reached.end_labels.size() == 2);
      CHECK(reached.end_labels[m].text == outcomes[m].front().method_label);
      CHECK(reached.end_labels[m].y == gaps.back());
    }
    CHECK(reached.y.logarithmic);
    REQUIRE(reached.y.range);
    CHECK((*reached.y.range)[0] < std::min(lines[0].y.front(), lines[1].y.front()));
    CHECK((*reached.y.range)[1] > std::max(lines[0].y.back(), lines[1].y.back()));
    std::size_t diamonds = 0;
    for (const PointLayer& points : layers_of<PointLayer>(figure.panels[0])) {
      if (points.marker == Marker::diamond && points.color != "#ffffff") diamonds += points.x.size();
    }
    CHECK(diamonds == 16);
  }

  TEST_CASE("where no best value is known the values are shown, best first in the user's sense") {
    const Problem hill = Problem::from_formula("-(x - 1)^2").maximized().region(-3, 3);
    const Figure figure = ends_figure(hill, runs_of(hill, {"random-search"}, 5));
    REQUIRE(figure.panels.size() == 1); // of one variable there is no landscape from above
    const auto line = layers_of<LineLayer>(figure.panels[0]).front();
    CHECK(std::ranges::is_sorted(line.y, std::greater<>()));
    CHECK(figure.panels[0].title == "value reached, best run first");
  }

  TEST_CASE("minima are marked where they are, and their shares of the searches make one whole") {
    const Problem camel = testbed::problem("six-hump-camel");
    const Outcome outcome = run(camel, method("single-linkage"), {.stop = {.evaluations = 20'000}});
    const Figure figure = minima_figure(camel, outcome);
    REQUIRE(figure.panels.size() == 2);
    const auto dots = layers_of<PointLayer>(figure.panels[1]).front();
    CHECK(dots.x.size() == outcome.minima.size());
    double whole = 0;
    for (const double share : dots.y) whole += share;
    CHECK(whole == doctest::Approx(1));
    const auto marks = layers_of<PointLayer>(figure.panels[0]);
    const bool are_marked = std::ranges::any_of(
        marks, [&](const PointLayer& layer) { return layer.label == "found" && layer.x.size() == dots.x.size(); });
    CHECK(are_marked);
    CHECK(figure.title.find("6 local minima found by single-linkage") != std::string::npos);
    CHECK_THROWS_WITH_AS((void)minima_figure(camel, run(camel, method("random-search"), {.stop = {.evaluations = 50}})),
                         doctest::Contains("found no minimum that it is sure of"), InputError);
  }
}
