#include "support/text.hpp"
#include "tanzen/figure/render.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <regex>

using namespace tanzen;
using testing::contains;

namespace {

std::string program_of(Panel panel) {
  Figure figure;
  figure.title = "a figure";
  figure.panels.push_back(std::move(panel));
  return gnuplot_program(figure, ".png");
}

/// Where the labels at the ends of curves stand, in the order given.
std::vector<double> label_places(const std::string& program) {
  const std::regex label("at graph 1\\.012,graph ([0-9.e+-]+)");
  std::vector<double> places;
  for (auto match = std::sregex_iterator(program.begin(), program.end(), label); match != std::sregex_iterator();
       ++match)
    places.push_back(std::stod((*match)[1].str()));
  return places;
}

Panel with_ends(const std::vector<double>& ends) {
  Panel panel;
  panel.x.range = std::array{0.0, 1.0};
  panel.y.range = std::array{0.0, 1.0};
  panel.layers.emplace_back(LineLayer{.x = {0, 1}, .y = {0, 1}});
  for (const double end : ends) panel.end_labels.push_back({end, "curve"});
  return panel;
}

} // namespace

TEST_SUITE("gnuplot programs") {
  TEST_CASE("names at the ends of curves stand where the curves end, if there is room") {
    const auto places = label_places(program_of(with_ends({0.2, 0.9, 0.5})));
    REQUIRE(places.size() == 3);
    CHECK(places[0] == doctest::Approx(0.2));
    CHECK(places[1] == doctest::Approx(0.9));
    CHECK(places[2] == doctest::Approx(0.5));
  }

  TEST_CASE("names that would lie on each other are moved apart, in their order, and stay beside the axes") {
    auto places = label_places(program_of(with_ends({1, 1, 1, 0.99, 0.5})));
    REQUIRE(places.size() == 5);
    std::ranges::sort(places);
    CHECK(places.back() <= 1);
    CHECK(places.front() == doctest::Approx(0.5));
    constexpr double line = 19 / 580.0; // the height of a line of text over that of the axes, in pixels
    for (std::size_t k = 1; k < places.size(); ++k) CHECK(places[k] - places[k - 1] >= line - 1e-3);
  }

  TEST_CASE("on a logarithmic axis a name stands at its decade") {
    Panel panel = with_ends({1e-2});
    panel.y.range = std::array{1e-4, 1e0};
    panel.y.logarithmic = true;
    CHECK(label_places(program_of(std::move(panel))).front() == doctest::Approx(0.5));
  }

  TEST_CASE("bands and words are rows of their own, and a word's quotes do no harm") {
    Panel panel;
    panel.layers.emplace_back(BandLayer{.x = {1, 2}, .lower = {0, 0}, .upper = {3, 4}, .color = "#1d4f91"});
    panel.layers.emplace_back(TextLayer{.x = {1}, .y = {2}, .texts = {"a \"kiln\""}, .align = TextLayer::Align::right});
    const std::string program = program_of(std::move(panel));
    CHECK(contains(program, "1 0 3\n2 0 4\n"));
    CHECK(contains(program, "with filledcurves fillcolor rgb '#c81d4f91'"));
    CHECK(contains(program, "1 2 \"a 'kiln'\"\n"));
    CHECK(contains(program, "with labels right noenhanced"));
  }

  TEST_CASE("names stand in place of numbers, turned where they have no room") {
    Panel panel;
    panel.layers.emplace_back(LineLayer{.x = {1, 2}, .y = {1, 2}});
    panel.x.names = {"bfgs", "it's"};
    CHECK(contains(program_of(panel), "norotate noenhanced (\"bfgs\" 1, \"it's\" 2)"));
    panel.x.names.assign(12, "adaptive-differential-evolution");
    CHECK(contains(program_of(panel), "rotate by 25 right noenhanced"));
    panel.x.names.clear();
    panel.x.tics = {2, 5, 10};
    CHECK(contains(program_of(panel), "('2' 2, '5' 5, '10' 10)"));
  }

  TEST_CASE("lines and points in space lie on their surface, or on a panel of their own") {
    Panel panel;
    const Vector sides = Vector::LinSpaced(3, 0, 2);
    panel.layers.emplace_back(
        SurfaceLayer{{.x = sides, .y = sides, .values = Matrix::Constant(3, 3, 1.5), .levels = {1, 2}}});
    panel.layers.emplace_back(LineLayer{.x = {0, 1}, .y = {0, 1}, .z = {5, 4}});
    panel.layers.emplace_back(PointLayer{.x = {2}, .y = {1}, .z = {3}});
    CHECK(is_in_space(panel));
    const std::string on_surface = program_of(panel);
    CHECK(contains(on_surface, "splot"));
    CHECK_FALSE(contains(on_surface, "\nplot"));
    CHECK(contains(on_surface, "with pm3d"));
    CHECK(contains(on_surface, "0 0 5\n1 1 4\n"));
    CHECK(contains(on_surface, "2 1 3\n"));
    panel.layers.erase(panel.layers.begin());
    CHECK(contains(program_of(panel), "splot"));
    Panel flat;
    flat.layers.emplace_back(LineLayer{.x = {0, 1}, .y = {0, 1}});
    CHECK_FALSE(is_in_space(flat));
    CHECK_FALSE(contains(program_of(flat), "splot"));
  }

  TEST_CASE("an axis can be hidden") {
    Panel panel;
    panel.layers.emplace_back(LineLayer{.x = {1, 2}, .y = {1, 2}});
    panel.y.hidden = true;
    CHECK(contains(program_of(std::move(panel)), "unset ytics"));
  }

  TEST_CASE("whatever a text holds, it stands in quotes that nothing in it ends, and starts no command") {
    for (const std::string& text :
         {std::string("plain"), std::string("f\'\'(x)"), std::string("say \"ah\""), std::string("`touch PWN`"),
          std::string("$(touch PWN)"), std::string("a\nset output \"x\"\n"), std::string("@macro"),
          std::string("back\\slash"), std::string("EOD\nsystem(\"x\")")}) {
      Panel panel;
      panel.title = text;
      panel.x.label = text;
      panel.y.names = {text, "other"};
      panel.end_labels.push_back({0.5, text});
      panel.y.range = std::array{0.0, 1.0};
      panel.layers.emplace_back(LineLayer{.x = {0, 1}, .y = {0, 1}, .label = text});
      panel.layers.emplace_back(TextLayer{.x = {0.5}, .y = {0.5}, .texts = {text}});
      Figure figure;
      figure.title = figure.caption = text;
      figure.panels.push_back(std::move(panel));
      const std::string program = gnuplot_program(figure, ".png");
      // Taken out of its quotes and its blocks of data, a program holds only what we wrote.
      std::string outside;
      bool inside = false, in_data = false;
      std::size_t at = 0;
      while (at < program.size()) {
        const std::size_t end = std::min(program.find('\n', at), program.size());
        const std::string line = program.substr(at, end - at);
        at = end + 1;
        if (in_data) {
          in_data = line != "EOD";
          continue;
        }
        in_data = line.ends_with("<< EOD");
        for (const char c : line) {
          if (c == '"')
            inside = !inside;
          else if (!inside)
            outside += c;
        }
        CHECK_FALSE(inside); // no text goes over its line
        outside += '\n';
      }
      CAPTURE(text);
      for (const char* command : {"system", "touch", "`", "set output", "macro"})
        CHECK(outside.find(command) == std::string::npos);
    }
  }

  TEST_CASE("a per cent sign at a tic is doubled, since names there are forms of numbers") {
    Panel panel;
    panel.y.names = {"step 50%", "5 %g"};
    panel.y.range = std::array{0.5, 2.5};
    panel.layers.emplace_back(PointLayer{.x = {1, 2}, .y = {1, 2}});
    const std::string program = program_of(std::move(panel));
    CHECK(contains(program, "\"step 50%%\" 1"));
    CHECK(contains(program, "\"5 %%g\" 2"));
  }

  TEST_CASE("a picture is drawn to the standard output: no name of a file is in a program") {
    const std::string program = program_of(with_ends({0.5}));
    CHECK_FALSE(contains(program, "set output"));
  }
}
