#include "tanzen/base/errors.hpp"
#include "tanzen/figure/comparison_figures.hpp"
#include "tanzen/figure/render.hpp"
#include "tanzen/files/trace_file.hpp"

#include "support/layers.hpp"
#include "support/program.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <filesystem>

using namespace tanzen;
using testing::contains;
using testing::layers_of;

namespace {

/// A campaign whose costs are set by hand: two families of two dimensions, three methods. The first solves all at 10 n,
/// the second at 20 n, the third only the first repeat of each.
Results made_up_runs(std::int64_t repeats = 3, std::vector<std::string> methods = {"quick", "slow", "lucky"}) {
  ResultsHead head{.title = "by hand", .repeats = repeats, .methods = std::move(methods)};
  for (const char* family : {"valley", "bowl"}) {
    for (const Index n : {2, 4})
      head.problems.push_back({.label = fmt::format("{}:dim={}", family, n),
                               .dimension = n,
                               .gaps = {1, 1e-2},
                               .reference_is_known = true});
  }
  Results results(head);
  for (std::size_t p = 0; p < 4; ++p) {
    for (std::int64_t repeat = 1; repeat <= repeats; ++repeat) {
      for (std::size_t m = 0; m < head.methods.size(); ++m) {
        const auto n = static_cast<std::int64_t>(head.problems[p].dimension);
        const std::int64_t cost = (m == 0 ? 10 : 20) * n;
        const bool solves = m < 2 || repeat == 1;
        RunRecord record{.key = {p, repeat, m}, .status = Status::target, .value = solves ? 1e-3 : 0.5};
        record.counts[Spent::evaluations] = solves ? cost : 100 * n;
        record.hits = {Counts(Counts::Numbers{cost / 2, 0, 0})};
        if (solves) record.hits.emplace_back(Counts::Numbers{cost, 0, 0});
        record.trace = trace_table_from_csv(
            fmt::format("iteration,evaluations,value,best_value\n0,1,4,4\n1,{},0.5,0.5\n2,{},{},{}\n", cost / 2, cost,
                        record.value, record.value));
        results.add(record, true);
      }
    }
  }
  results.finish();
  return results;
}

ProblemGroup everything(const Results& results) {
  return group_problems(results).front();
}

std::vector<LineLayer> curves_of(const Panel& panel) {
  return layers_of<LineLayer>(panel);
}

} // namespace

TEST_SUITE("figures of comparisons") {
  TEST_CASE(
      "runtimes: the part of runs and targets done, by the cost in simplices of variables, with bands over problems") {
    const Results results = made_up_runs();
    const Figure figure = runtimes_figure(results, everything(results));
    const Panel& panel = figure.panels.front();
    const auto curves = curves_of(panel);
    REQUIRE(curves.size() == 3);
    // The first method: half of all at 5 n and the rest at 10 n, by n + 1.
    CHECK(curves[0].x[1] == doctest::Approx(10.0 / 3));
    CHECK(curves[0].y.back() == 1);
    CHECK(curves[2].y.back() == doctest::Approx(0.5 + 0.5 / 3));
    CHECK(curves[1].label == "slow");
    CHECK(panel.key_inside);
    const auto bands = layers_of<BandLayer>(panel);
    REQUIRE(bands.size() == 3);
    for (std::size_t k = 0; k < bands[0].x.size(); ++k) CHECK(bands[0].lower[k] <= bands[0].upper[k]);
    CHECK(bands[0].upper.back() == 1);
    CHECK(figure.caption.find("by hand  |  all problems  |  3 methods, 3 repeats") == 0);
  }

  TEST_CASE("runtimes of more methods than bands can be told apart have none, and do not speak of any") {
    const auto panel_of = [](std::vector<std::string> methods) {
      const Results results = made_up_runs(3, std::move(methods));
      return runtimes_figure(results, everything(results)).panels.front();
    };
    const Panel three = panel_of({"quick", "slow", "lucky"}), four = panel_of({"quick", "slow", "lucky", "late"});
    CHECK(three.title.find("bands: quartiles over the problems") != std::string::npos);
    CHECK(four.title.find("band") == std::string::npos);
    CHECK(layers_of<BandLayer>(four).empty());
    CHECK(curves_of(four).size() == 4);
  }

  TEST_CASE("profiles: ratios to the best, and simplices of variables") {
    const Results results = made_up_runs();
    const Figure figure = profiles_figure(results, everything(results), std::nullopt);
    REQUIRE(figure.panels.size() == 2);
    const auto ratios = curves_of(figure.panels[0]);
    CHECK(ratios[0].y.back() == 1);
    CHECK(ratios[1].x[1] == 2); // twice the least cost everywhere
    CHECK(ratios[1].y.back() == 1);
    CHECK(ratios[2].y.back() == doctest::Approx(1.0 / 3));
    const auto data = curves_of(figure.panels[1]);
    CHECK(data[0].x[1] == doctest::Approx(20.0 / 3)); // 10 n / (n + 1) for n = 2
  }

  TEST_CASE("bands: medians and quartiles on one grid of costs") {
    const Results results = made_up_runs();
    const Figure figure = bands_figure(results, everything(results));
    REQUIRE(figure.panels.size() == 4);
    CHECK(figure.columns == 2);
    const auto bands = layers_of<BandLayer>(figure.panels[0]);
    const auto medians = curves_of(figure.panels[0]);
    REQUIRE(bands.size() == 3);
    CHECK(medians[0].y.front() == 4);
    CHECK(medians[0].y.back() == 1e-3);
    CHECK(medians[2].y.back() == 0.5); // two of three repeats missed it
    CHECK(bands[2].lower.back() < 0.5);
    CHECK(bands[2].upper.back() == 0.5);
    CHECK(std::holds_alternative<BandLayer>(figure.panels[0].layers[2])); // all bands under all lines
  }

  TEST_CASE("accuracy: a box, a median and all runs for each method") {
    const Results results = made_up_runs();
    const Figure figure = accuracy_figure(results, everything(results));
    const Panel& panel = figure.panels.front();
    CHECK(panel.x.names == std::vector<std::string>{"quick", "slow", "lucky"});
    const auto points = layers_of<PointLayer>(panel);
    REQUIRE(points.size() == 3);
    CHECK(points[2].y == std::vector<double>{1e-3, 0.5, 0.5});
    for (const double x : points[2].x) CHECK(std::abs(x - 3) <= 0.21);
    CHECK(curves_of(panel)[2].y.front() == 0.5);
  }

  TEST_CASE("successes: a cell for each method and problem, the first problem at the top") {
    const Results results = made_up_runs();
    const Figure figure = successes_figure(results, everything(results), std::nullopt);
    const Panel& panel = figure.panels.front();
    CHECK(panel.y.names.back() == "valley:dim=2");
    const auto cells = layers_of<PixelLayer>(panel);
    REQUIRE(cells.size() == 1);
    CHECK(cells[0].colors.size() == 12);
    CHECK(cells[0].colors[0] == std::array<std::uint8_t, 3>{0x16, 0x21, 0x3e}); // all solved
    std::size_t words = 0;
    for (const TextLayer& layer : layers_of<TextLayer>(panel)) {
      words += layer.texts.size();
      for (std::size_t k = 0; k < layer.x.size(); ++k) CHECK(layer.texts[k] == (layer.x[k] == 3 ? "1/3" : "3/3"));
    }
    CHECK(words == 12);
  }

  TEST_CASE("ranks: each method at its mean rank, bars over what is not told apart") {
    const Results results = made_up_runs(6);
    const Figure figure = ranks_figure(results, everything(results), std::nullopt);
    const auto points = layers_of<PointLayer>(figure.panels.front());
    REQUIRE(points.size() == 3);
    CHECK(points[0].x.front() == 1);                            // quick is first in every repeat
    CHECK(points[1].x.front() == doctest::Approx(2 + 0.5 / 6)); // slow ties with lucky in one of six
    CHECK(points[2].x.front() == doctest::Approx(3 - 0.5 / 6));
    // Over four problems a difference of 1.66 is significant: 1 and 3 are apart, neighbours are not.
    const auto lines = curves_of(figure.panels.front());
    CHECK(std::ranges::count_if(lines, [](const LineLayer& line) { return line.width == 5; }) == 2);
    CHECK_THROWS_WITH_AS((void)ranks_figure(results, {"one", {0}}, std::nullopt), doctest::Contains("two problems"),
                         InputError);
  }

  TEST_CASE("scaling: expected running times against variables, with the exponent beside each curve") {
    const Results results = made_up_runs();
    const Figure figure = scaling_figure(results, everything(results), std::nullopt);
    REQUIRE(figure.panels.size() == 2);
    const auto curves = curves_of(figure.panels[0]);
    CHECK(curves[0].x == std::vector<double>{2, 4});
    CHECK(curves[0].y == std::vector<double>{20, 40});
    CHECK(curves[2].y == std::vector<double>{40 + 400, 80 + 800}); // what the failures spent is charged to the success
    CHECK(figure.panels[0].end_labels[0].text == "quick  n^1.0");
    CHECK_THROWS_WITH_AS((void)scaling_figure(results, {"one", {0}}, std::nullopt), doctest::Contains("a family"),
                         InputError);
  }

  TEST_CASE("a pair: a mark for each two costs, failures at the edge") {
    const Results results = made_up_runs();
    const Figure figure = pair_figure(results, everything(results), {0, 2}, std::nullopt);
    const auto points = layers_of<PointLayer>(figure.panels.front());
    REQUIRE(points.size() == 1);    // the first is cheaper everywhere
    CHECK(points[0].x.size() == 4); // 12 runs in two dimensions, each with a success and failures
    CHECK(*std::ranges::max_element(points[0].y) == 3 * 80); // three times the largest cost
    CHECK(figure.panels.front().title == "quick cheaper in 12, lucky in 0, neither solved 0 of 12");
    CHECK_THROWS_AS((void)pair_figure(results, everything(results), {1, 1}, std::nullopt), InputError);
  }

  TEST_CASE("of very many runs some are drawn, evenly by rank, with the least and the largest") {
    const Results results = made_up_runs(1000);
    const Figure figure = accuracy_figure(results, everything(results));
    CHECK(contains(figure.title, "runs evenly by rank"));
    const PointLayer lucky = layers_of<PointLayer>(figure.panels.front()).back();
    CHECK(lucky.y.size() < 450);
    CHECK(*std::ranges::min_element(lucky.y) == doctest::Approx(1e-3)); // one run of a thousand
    CHECK(lucky.y.back() == doctest::Approx(0.5));
    CHECK(contains(accuracy_figure(made_up_runs(), everything(made_up_runs())).title, "all runs"));
  }

  TEST_CASE("a method looks the same in every figure, and no two look alike") {
    const Results results = made_up_runs();
    const Panel runtimes = runtimes_figure(results, everything(results)).panels.front();
    const Panel profile = profiles_figure(results, everything(results), std::nullopt).panels.front();
    for (std::size_t m = 0; m < 3; ++m) {
      CHECK(curves_of(runtimes)[m].color == method_style(m).color);
      CHECK(curves_of(profile)[m].color == method_style(m).color);
      CHECK(curves_of(profile)[m].dash == method_style(m).dash);
    }
    for (std::size_t a = 0; a < 24; ++a) {
      for (std::size_t b = 0; b < a; ++b) {
        const MethodStyle x = method_style(a), y = method_style(b);
        CHECK((x.color != y.color || x.dash != y.dash));
      }
    }
  }

  TEST_CASE("all are drawn, with names that gnuplot could take for its own") {
    const testing::TemporaryFolder folder;
    const Results results = made_up_runs();
    const ProblemGroup all = everything(results);
    const std::pair<const char*, Figure> figures[] = {{"bands", bands_figure(results, all)},
                                                      {"accuracy", accuracy_figure(results, all)},
                                                      {"successes", successes_figure(results, all, 1.0)},
                                                      {"ranks", ranks_figure(results, all, std::nullopt)},
                                                      {"pair", pair_figure(results, all, {0, 1}, std::nullopt)}};
    for (const auto& [name, figure] : figures) {
      CAPTURE(name);
      const auto path = folder / (std::string(name) + ".svg");
      render(figure, path);
      CHECK(std::filesystem::file_size(path) > 4000);
    }
  }
}
