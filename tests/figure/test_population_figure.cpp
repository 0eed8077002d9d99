#include "tanzen/base/errors.hpp"
#include "tanzen/figure/population_figure.hpp"
#include "tanzen/figure/sample_figure.hpp"
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

Outcome with_populations(const Problem& problem, const char* by) {
  return run(problem, standard_methods().parse(by),
             {.seed = 2, .stop = {.iterations = 60}, .trace = {.most_populations = 100}});
}

std::vector<std::int64_t> iterations_of(const std::vector<PopulationSnapshot>& snapshots) {
  std::vector<std::int64_t> iterations;
  for (const PopulationSnapshot& each : snapshots) iterations.push_back(each.iteration);
  return iterations;
}

std::size_t dots_on(const Panel& panel) {
  std::size_t dots = 0;
  for (const PointLayer& points : layers_of<PointLayer>(panel)) {
    if (points.marker == Marker::dot && points.color != "#ffffff") dots += points.x.size();
  }
  return dots;
}

} // namespace

TEST_SUITE("figures of populations") {
  TEST_CASE("a film has a frame a population: its members, its best one, and its width") {
    const Problem problem = testbed::problem("rastrigin");
    const Outcome outcome = run(problem, method("differential-evolution"),
                                {.stop = {.iterations = 12}, .trace = {.most_populations = 400}});
    const auto& snapshots = outcome.trace.populations();
    const Figure film = population_film(problem, outcome, snapshots);
    REQUIRE(film.frames.size() == snapshots.size());
    CHECK(film.frames[4] == fmt::format("iteration {}", snapshots[4].iteration));
    const auto points = layers_of<PointLayer>(film.panels[0]);
    const PointLayer& members = points[points.size() - 2];
    const PointLayer& best = points.back();
    for (std::size_t k = 0; k < snapshots.size(); ++k) {
      const auto [first, end] = members.shown[k];
      CHECK(end - first <= static_cast<std::size_t>(snapshots[k].points.cols()));
      CHECK(members.x[first] == snapshots[k].points(0, 0));
      Index leader = 0;
      snapshots[k].values.minCoeff(&leader);
      CHECK(best.x[best.shown[k][0]] == snapshots[k].points(0, leader));
    }
    CHECK(layers_of<PointLayer>(film.panels[1]).front().shown.size() == snapshots.size());
    CHECK_THROWS_AS((void)population_film(problem, outcome, {}), InputError);
  }

  TEST_CASE("a panel for each snapshot with its members and its best, below them widths and steps") {
    const Problem rastrigin = testbed::problem("rastrigin");
    const Outcome outcome = with_populations(rastrigin, "differential-evolution");
    const auto snapshots = spread_snapshots(outcome.trace.populations(), 4);
    REQUIRE(snapshots.size() == 4);
    const Figure figure = population_figure(rastrigin, outcome, snapshots);
    REQUIRE(figure.panels.size() >= 5);
    for (std::size_t k = 0; k < 4; ++k) {
      CAPTURE(k);
      const Panel& panel = figure.panels[k];
      CHECK(dots_on(panel) == static_cast<std::size_t>(snapshots[k].points.cols()));
      const auto marks = layers_of<PointLayer>(panel);
      Index best = 0;
      snapshots[k].values.minCoeff(&best);
      const bool has_best = std::ranges::any_of(marks, [&](const PointLayer& mark) {
        return mark.marker == Marker::diamond && mark.x == std::vector{snapshots[k].points(0, best)};
      });
      CHECK(has_best);
    }
    const auto widths = layers_of<LineLayer>(figure.panels.back());
    REQUIRE_FALSE(widths.empty());
    CHECK(widths.front().label == "diversity");
    CHECK(figure.panels.back().y.logarithmic); // it shrinks over decades
  }

  TEST_CASE("members outside the region are counted in the panel's title, not drawn beyond the axes") {
    const Problem bowl = Problem::from_formula("2*x^2 + 0.7*y^2").region({-1, -1}, {1, 1});
    const Outcome outcome = with_populations(bowl, "cma-es");
    PopulationSnapshot strayed{.iteration = 3, .points = Matrix(2, 3), .values = Vector{{1, 2, 3}}};
    strayed.points << 0.5, 4, -3, 0.5, 0, 0;
    const Figure figure = population_figure(bowl, outcome, {strayed});
    CHECK(figure.panels.front().title.find(", 2 outside") != std::string::npos);
    CHECK(dots_on(figure.panels.front()) == 1);
  }

  TEST_CASE("snapshots are spread in the logarithm of the iteration, with the first and the last") {
    std::vector<PopulationSnapshot> all(100);
    for (std::size_t k = 0; k < all.size(); ++k) all[k].iteration = static_cast<std::int64_t>(k);
    CHECK(iterations_of(spread_snapshots(all, 3)) == std::vector<std::int64_t>{0, 9, 99});
    for (const std::size_t count : {2U, 5U, 12U, 60U, 99U}) {
      const auto chosen = iterations_of(spread_snapshots(all, count));
      CAPTURE(count);
      CHECK(chosen.size() == count);
      CHECK(chosen.front() == 0);
      CHECK(chosen.back() == 99);
      CHECK(std::ranges::adjacent_find(chosen, std::greater_equal<>()) == chosen.end()); // each once, in order
    }
    CHECK(spread_snapshots(all, 200).size() == 100);
  }

  TEST_CASE("what cannot be drawn says why") {
    CHECK_THROWS_WITH_AS(check_population_figure(testbed::problem("sphere", 3)),
                         "a population is drawn over two variables; sphere:dim=3 has 3", InputError);
    const Problem sphere = testbed::problem("sphere", 2);
    CHECK_THROWS_WITH_AS((void)population_figure(sphere, with_populations(sphere, "cma-es"), {}),
                         doctest::Contains("has no population at these iterations"), InputError);
  }
}

TEST_SUITE("figures of samples") {
  TEST_CASE("every point is drawn once over two variables, dark where it is good, and against each variable") {
    const Problem schwefel = testbed::problem("schwefel", 2);
    for (const Sampling sampling : {Sampling::uniform, Sampling::latin_hypercube, Sampling::sobol}) {
      const Figure figure = sample_figure(schwefel, 240, sampling, 5);
      REQUIRE(figure.panels.size() == 3);
      CHECK(dots_on(figure.panels[0]) == 240);
      const auto groups = layers_of<PointLayer>(figure.panels[0]);
      const PointLayer& worst = groups.front();
      const PointLayer& best = groups.back(); // drawn last, on top
      double most = -INFINITY, least = INFINITY;
      for (std::size_t k = 0; k < best.x.size(); ++k) most = std::max(most, schwefel.value({best.x[k], best.y[k]}));
      for (std::size_t k = 0; k < worst.x.size(); ++k)
        least = std::min(least, schwefel.value({worst.x[k], worst.y[k]}));
      CHECK(most < least);
      for (std::size_t j = 0; j < 2; ++j) CHECK(dots_on(figure.panels[1 + j]) == 240);
    }
  }

  TEST_CASE("points without a value are counted and left out; of a maximum the largest are the good ones") {
    const Problem half = Problem::from_formula("log(x) + 0*y").maximized().region({-1, 0}, {1, 1});
    const Figure figure = sample_figure(half, 200, Sampling::latin_hypercube, 1);
    CHECK(dots_on(figure.panels[0]) == 100); // a point in each of 200 intervals of x, half of them negative
    CHECK(figure.caption.find("100 without a value") != std::string::npos);
    const PointLayer best = layers_of<PointLayer>(figure.panels[0]).back();
    CHECK(std::ranges::min(best.x) > 0.8);
  }

  TEST_CASE("of many variables the first six are shown") {
    CHECK(sample_figure(testbed::problem("sphere", 30), 50, Sampling::sobol, 1).panels.size() == 6);
  }
}
