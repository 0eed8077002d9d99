#include "tanzen/base/errors.hpp"
#include "tanzen/figure/landscape_figure.hpp"
#include "tanzen/figure/render.hpp"
#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;
using testing::TemporaryFolder;

namespace {

Figure figure_with(Layer layer) {
  Figure figure;
  figure.title = "a figure";
  Panel panel;
  panel.x.range = std::array{0.0, 1.0};
  panel.y.range = std::array{0.0, 1.0};
  panel.layers.push_back(std::move(layer));
  figure.panels.push_back(std::move(panel));
  return figure;
}

FieldLayer field_of(Index rows, Index columns) {
  return {.x = Vector::LinSpaced(3, 0, 1),
          .y = Vector::LinSpaced(2, 0, 1),
          .values = Matrix::Zero(rows, columns),
          .levels = {0.5}};
}

} // namespace

TEST_SUITE("figures of one's own") {
  TEST_CASE("what cannot be drawn is refused with its panel and layer, by every renderer, and leaves no file") {
    const TemporaryFolder folder;
    struct Row {
      Layer layer;
      const char* says;
    };
    const std::vector<Row> rows = {
        {LineLayer{.x = {0, 1, 2}, .y = {0, 1}}, "y has 2 where there must be 3"},
        {LineLayer{.x = {0, 1}, .y = {0, 1}, .z = {1}}, "z has 1 where there must be 2"},
        {LineLayer{.x = {0, 1}, .y = {0, 1}, .shown = {{0, 5}}}, "a frame shows places 0 to 5 of 2"},
        {LineLayer{.x = {0, 1}, .y = {0, 1}, .color = "red"}, "a colour is written #1d4f91, not 'red'"},
        {LineLayer{.x = {0, 1}, .y = {0, 1}, .color = "#12345g"}, "a colour is written"},
        {PointLayer{.x = {0}, .y = {}}, "y has 0 where there must be 1"},
        {PointLayer{.x = {0}, .y = {0}, .pointer = {"a", "b"}}, "pointer has 2 where there must be 1"},
        {BandLayer{.x = {0, 1}, .lower = {0, 0}, .upper = {1}}, "upper has 1 where there must be 2"},
        {BandLayer{.x = {0, 1}, .lower = {0}, .upper = {1, 1}}, "lower has 1 where there must be 2"},
        {TextLayer{.x = {0}, .y = {0}, .texts = {}}, "texts has 0 where there must be 1"},
        {field_of(3, 3), "values are 3 by 3, and the grid is 2 by 3"},
        {SurfaceLayer{field_of(2, 2)}, "values are 2 by 2, and the grid is 2 by 3"},
        {PixelLayer{.x = Vector::LinSpaced(2, 0, 1), .y = Vector::LinSpaced(2, 0, 1), .colors = {{0, 0, 0}}},
         "colors has 1 where there must be 4"},
        {VeilLayer{.x = Vector::LinSpaced(2, 0, 1), .y = Vector::LinSpaced(2, 0, 1), .covered = Matrix::Zero(1, 2)},
         "covered are 1 by 2"}};
    for (const Row& row : rows) {
      CAPTURE(row.says);
      for (const char* name : {"a.png", "a.svg", "a.html"}) {
        CHECK_THROWS_WITH_AS(render(figure_with(row.layer), folder / name), doctest::Contains(row.says), InputError);
        CHECK_THROWS_WITH_AS(render(figure_with(row.layer), folder / name), doctest::Contains("layer 1 of panel 1"),
                             InputError);
      }
    }
    CHECK_THROWS_WITH_AS(render(Figure(), folder / "a.png"), doctest::Contains("at least one panel"), InputError);
    FieldLayer falling = field_of(2, 3);
    falling.levels = {2, 1};
    CHECK_THROWS_WITH_AS(render(figure_with(falling), folder / "a.png"), doctest::Contains("levels do not rise"),
                         InputError);
    CHECK(std::filesystem::is_empty(folder.path()));
  }

  TEST_CASE("layers without a colour take the next one of a series") {
    const TemporaryFolder folder;
    Figure figure = figure_with(LineLayer{.x = {0, 1}, .y = {0, 1}, .color = ""});
    figure.panels[0].layers.emplace_back(LineLayer{.x = {0, 1}, .y = {1, 0}, .color = "#123456"});
    figure.panels[0].layers.emplace_back(PointLayer{.x = {0.5}, .y = {0.5}, .color = ""});
    render(figure, folder / "a.html");
    const std::string page = read_file(folder / "a.html");
    for (const auto color : {series_colors[0], series_colors[1]})
      CHECK(page.find(std::string(color)) != std::string::npos);
    CHECK(page.find("#123456") != std::string::npos);
  }

  TEST_CASE("ranges without width or number are drawn wider") {
    const TemporaryFolder folder;
    for (const std::array<double, 2>& range :
         {std::array{1.0, 1.0}, std::array{0.0, 0.0}, std::array{1.0, 1.0000000000000002}, std::array{2.0, -1.0},
          std::array{-std::numeric_limits<double>::infinity(), 1.0}, std::array{std::nan(""), 1.0},
          std::array{1e300, 1e300}}) {
      Figure figure = figure_with(LineLayer{.x = {0, 1}, .y = {0, 1}});
      figure.panels[0].x.range = range;
      figure.panels[0].y.range = range;
      CAPTURE(range[0]);
      CHECK_NOTHROW(render(figure, folder / "a.png"));
    }
  }

  TEST_CASE("a picture goes where a link leads, and to the standard output as it is") {
    const TemporaryFolder folder;
    const Figure figure = figure_with(LineLayer{.x = {0, 1}, .y = {0, 1}});
    write_file(folder / "kept.svg", "old");
    std::filesystem::create_symlink(folder / "kept.svg", folder / "link.svg");
    render(figure, folder / "link.svg");
    CHECK(std::filesystem::is_symlink(folder / "link.svg"));
    CHECK(read_file(folder / "kept.svg").find("</svg>") != std::string::npos);
  }

  TEST_CASE("a panel of which nothing has a place shows its axes") {
    const TemporaryFolder folder;
    const double none = std::nan("");
    for (const Layer& layer : {Layer(LineLayer{.x = {0, 1}, .y = {none, none}}), Layer(PointLayer{}),
                               Layer(TextLayer{}), Layer(BandLayer{.x = {1}, .lower = {none}, .upper = {none}})}) {
      Figure figure = figure_with(layer);
      for (const bool has_ranges : {true, false}) {
        for (const bool logarithmic : {false, true}) {
          if (!has_ranges) figure.panels[0].x.range = figure.panels[0].y.range = std::nullopt;
          if (has_ranges && logarithmic) continue; // a range from 0 has no logarithm
          figure.panels[0].y.logarithmic = logarithmic;
          CHECK_NOTHROW(render(figure, folder / "a.png"));
          CHECK(std::filesystem::file_size(folder / "a.png") > 1000);
        }
      }
    }
  }

  TEST_CASE("a region that is too narrow for numbers to keep its places apart is refused by its variable") {
    const Problem plane = Problem::from_formula("x + y");
    const Problem narrow = plane.region({1, 0}, {1.0000000000000002, 1}),
                  line = Problem::from_formula("x^2").region(1, 1);
    CHECK_THROWS_WITH_AS((void)landscape_figure(narrow, {}), doctest::Contains("the region of x goes from 1 to"),
                         InputError);
    CHECK_THROWS_WITH_AS((void)landscape_figure(line, {}), doctest::Contains("too narrow for a picture"), InputError);
    CHECK_NOTHROW((void)landscape_figure(plane.region({1e6, 0}, {1e6 + 1e-3, 1}), {.resolution = 10}));
  }
}
