#include "tanzen/base/errors.hpp"
#include "tanzen/figure/comparison_figures.hpp"
#include "tanzen/figure/front_figure.hpp"
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

std::shared_ptr<const KnownFront> known(const std::string& label) {
  return testbed::parse_problem(label).known_front();
}

} // namespace

TEST_SUITE("pictures of fronts") {
  TEST_CASE("a run's front lies over the true one, with its ends, its knee and what was missing") {
    const Problem problem = testbed::parse_problem("zdt-3");
    const Outcome outcome = run(problem, method("nondominated-sorting"), {.stop = {.evaluations = 3000}});
    const Figure figure = front_figure(problem, outcome);
    REQUIRE(figure.panels.size() == 2);
    const auto lines = layers_of<LineLayer>(figure.panels[0]);
    const auto points = layers_of<PointLayer>(figure.panels[0]);
    REQUIRE(lines.size() == 1);
    CHECK(lines[0].label == "true front");
    // Five pieces: four gaps.
    CHECK(std::ranges::count_if(lines[0].x, [](double x) { return std::isnan(x); }) == 4);
    REQUIRE(points.size() == 3);
    CHECK(points[0].x.size() == std::min<std::size_t>(500, outcome.front.size()));
    CHECK(points[1].x.size() == 2);
    CHECK(points[2].x.size() == 1);
    CHECK(points[1].x[0] == outcome.front.front().objectives[0]);
    const auto missing = layers_of<LineLayer>(figure.panels[1]);
    CHECK(missing[0].y.back() == doctest::Approx(*outcome.gap));
  }

  TEST_CASE("three objectives are a space, more are lines") {
    for (const int objectives : {3, 5}) {
      const Problem problem = testbed::problem("dtlz-2", 0, {{"objectives", objectives}});
      const Outcome outcome = run(problem, method("reference-points"), {.stop = {.evaluations = 1000}});
      const Figure figure = front_figure(problem, outcome);
      CHECK(is_in_space(figure.panels[0]) == (objectives == 3));
      if (objectives == 3) continue;
      CHECK(figure.panels[0].x.names.size() == 5);
      for (const LineLayer& line : layers_of<LineLayer>(figure.panels[0]))
        for (const double y : line.y) CHECK((std::isnan(y) || (y >= 0 && y <= 1)));
    }
  }

  TEST_CASE("of several runs the line is what half of them attain, and each label stands once") {
    Campaign campaign({.repeats = 5, .stop = {.evaluations = 400}},
                      {testbed::parse_problem("binh"), testbed::parse_problem("deb-slope")},
                      {method("nondominated-sorting"), method("direct-multisearch")});
    const Results results = run_campaign(campaign, {.workers = 1});
    const Figure figure = fronts_figure(results, group_problems(results).front(), known);
    REQUIRE(figure.panels.size() == 2);
    const auto lines = layers_of<LineLayer>(figure.panels[0]);
    REQUIRE(lines.size() == 7); // the true front, and three lines for each method
    std::vector<std::string> labels;
    for (const LineLayer& line : lines)
      if (!line.label.empty()) labels.push_back(line.label);
    CHECK(labels == std::vector<std::string>{"true front", "nondominated-sorting", "direct-multisearch"});
    for (const LineLayer& line : layers_of<LineLayer>(figure.panels[1])) CHECK(line.label.empty());
    // Each step goes to the right and down.
    for (const LineLayer& line : lines) {
      if (line.label == "true front") continue;
      for (std::size_t k = 1; k < line.x.size(); ++k) {
        CHECK(line.x[k] >= line.x[k - 1]);
        CHECK(line.y[k] <= line.y[k - 1]);
      }
    }
  }

  TEST_CASE("results of one objective have no fronts to show") {
    Campaign campaign({.repeats = 1, .stop = {.evaluations = 50}}, {testbed::parse_problem("sphere")},
                      {method("nelder-mead")});
    const Results results = run_campaign(campaign, {.workers = 1});
    CHECK_THROWS_WITH_AS((void)fronts_figure(results, group_problems(results).front(), known),
                         doctest::Contains("none of these problems has several objectives"), InputError);
  }

  TEST_CASE("growth shows the members of each iteration, the last darkest") {
    const Problem problem = testbed::parse_problem("zdt-1");
    const Outcome outcome = run(problem, method("generalized-differential"),
                                {.stop = {.evaluations = 1500}, .trace = {.most_populations = 3}});
    const Figure figure = front_growth_figure(problem, outcome, outcome.trace.populations());
    const auto points = layers_of<PointLayer>(figure.panels[0]);
    REQUIRE(points.size() == outcome.trace.populations().size());
    for (const PointLayer& layer : points) CHECK(layer.x.size() == 100);
    CHECK(points.back().color == "#16213e");
  }
}
