// Pages hold the figure that pictures show; what a browser makes of them is looked at in tests/pages.
#include "tanzen/base/errors.hpp"
#include "tanzen/figure/landscape_figure.hpp"
#include "tanzen/figure/page.hpp"
#include "tanzen/figure/render.hpp"
#include "tanzen/figure/solve_figure.hpp"
#include "tanzen/figure/sweep_figure.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/layers.hpp"
#include "support/program.hpp"

#include <cmath>
#include <cstring>
#include <doctest/doctest.h>
#include <nlohmann/json.hpp>
#include <regex>

using namespace tanzen;
using nlohmann::json;
using testing::contains;
using testing::layers_of;
using testing::TemporaryFolder;

namespace {

/// The data of a page, and what comes before them.
json data_of(const std::string& page) {
  const std::string opening = "<script type=\"application/json\" id=\"page-data\">";
  const std::size_t begin = page.find(opening) + opening.size();
  return json::parse(page.substr(begin, page.find("</script>", begin) - begin));
}

std::vector<unsigned char> bytes_of(const std::string& text) {
  static const std::string digits = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
  std::vector<unsigned char> bytes;
  unsigned held = 0;
  int bits = 0;
  for (const char c : text) {
    if (c == '=') break;
    held = held << 6U | static_cast<unsigned>(digits.find(c));
    if ((bits += 6) < 8) continue;
    bits -= 8;
    bytes.push_back(static_cast<unsigned char>(held >> static_cast<unsigned>(bits)));
  }
  return bytes;
}

std::vector<double> numbers_of(const json& packed) {
  std::vector<double> numbers;
  if (packed.is_array()) {
    for (const json& number : packed) numbers.push_back(number.is_null() ? std::nan("") : number.get<double>());
    return numbers;
  }
  const auto bytes = bytes_of(packed.at("single"));
  for (std::size_t k = 0; k + 3 < bytes.size(); k += 4) {
    float number = 0;
    std::memcpy(&number, bytes.data() + k, 4);
    numbers.push_back(number);
  }
  return numbers;
}

void check_same_numbers(const std::vector<double>& shown, const std::vector<double>& numbers) {
  REQUIRE(shown.size() == numbers.size());
  for (std::size_t k = 0; k < shown.size(); ++k) {
    const bool is_number = std::isfinite(numbers[k]);
    CHECK(std::isfinite(shown[k]) == is_number);
    if (is_number) CHECK(shown[k] == doctest::Approx(numbers[k]).epsilon(1e-6));
  }
}

/// That an axis of a page and of a picture's program are the figure's.
void check_axis(const json& shown, const Axis& axis, const std::string& program) {
  CHECK(shown.at("label") == axis.label);
  CHECK(shown.at("logarithmic") == axis.logarithmic);
  CHECK(shown.contains("range") == axis.range.has_value());
  if (!axis.range) return;
  CHECK(shown.at("range") == json(*axis.range));
  CHECK(contains(program, fmt::format("range [{}:{}]", (*axis.range)[0], (*axis.range)[1])));
}

/// That a page and a picture show the same.
void check_page(const Figure& figure) {
  const TemporaryFolder folder;
  render(figure, folder / "a.html");
  const json shown = data_of(read_file(folder / "a.html")).at("figures").at(0);
  const std::string program = gnuplot_program(figure, ".png");
  CHECK(shown.at("title") == figure.title);
  CHECK(shown.at("caption") == figure.caption);
  CHECK(shown.at("frames") == json(figure.frames));
  REQUIRE(shown.at("panels").size() == figure.panels.size());
  for (std::size_t p = 0; p < figure.panels.size(); ++p) {
    const Panel& panel = figure.panels[p];
    const json& seen = shown.at("panels").at(p);
    CHECK(seen.at("title") == panel.title);
    check_axis(seen.at("x"), panel.x, program);
    check_axis(seen.at("y"), panel.y, program);
    REQUIRE(seen.at("layers").size() == panel.layers.size());
    for (std::size_t k = 0; k < panel.layers.size(); ++k) {
      const json& layer = seen.at("layers").at(k);
      if (const auto* line = std::get_if<LineLayer>(&panel.layers[k])) {
        CHECK(layer.at("kind") == "line");
        CHECK(layer.at("color") == line->color);
        CHECK(layer.at("label") == line->label);
        CHECK(contains(program, fmt::format("linecolor rgb '{}'", line->color)));
        check_same_numbers(numbers_of(layer.at("x")), line->x);
        check_same_numbers(numbers_of(layer.at("y")), line->y);
      } else if (const auto* points = std::get_if<PointLayer>(&panel.layers[k])) {
        CHECK(layer.at("kind") == "points");
        CHECK(layer.at("color") == points->color);
        check_same_numbers(numbers_of(layer.at("x")), points->x);
        check_same_numbers(numbers_of(layer.at("y")), points->y);
      } else if (const auto* field = std::get_if<FieldLayer>(&panel.layers[k])) {
        CHECK(layer.at("levels") == json(field->levels));
        const auto values = numbers_of(layer.at("values"));
        REQUIRE(values.size() == static_cast<std::size_t>(field->values.size()));
        CHECK(values[7] == doctest::Approx(field->values(0, 7)).epsilon(1e-6));
        CHECK(values.back() == doctest::Approx(field->values(field->values.rows() - 1, field->values.cols() - 1)));
      }
    }
  }
}

Outcome with_points(const Problem& problem, const char* name, RunOptions options = {}) {
  options.trace.points = true;
  return run(problem, method(name), options);
}

} // namespace

TEST_SUITE("pages") {
  TEST_CASE("a page and a picture of one figure show the same ranges, colours, names and numbers") {
    const Problem valley = testbed::problem("rosenbrock");
    check_page(solve_figure(valley, with_points(valley, "nelder-mead")));
    const Problem bowl = testbed::problem("sphere", 5);
    check_page(solve_figure(bowl, with_points(bowl, "bfgs")));
    check_page(paths_figure(valley, {with_points(valley, "bfgs"), with_points(valley, "newton")}));
    check_page(landscape_figure(testbed::problem("ackley", 3)));
    check_page(landscape_figure(Problem::from_formula("1/x")));
  }

  TEST_CASE("a page allows no request and no script but its own two") {
    const TemporaryFolder folder;
    render(landscape_figure(testbed::problem("himmelblau")), folder / "a.html");
    const std::string page = read_file(folder / "a.html");
    const std::regex policy("default-src 'none'; script-src 'sha256-[A-Za-z0-9+/]{43}=' 'sha256-[A-Za-z0-9+/]{43}='; "
                            "style-src 'unsafe-inline'; img-src data: blob:; base-uri 'none'; form-action 'none'");
    CHECK(std::regex_search(page.begin(), page.begin() + 2000, policy));
    CHECK(page.size() < 7'000'000);
  }

  TEST_CASE("no name in a page is read as markup, and none ends the data") {
    Problem problem = Problem::from_formula("x^2 + y^2").named("</script><b>kiln</b> & \"glaze\"");
    const TemporaryFolder folder;
    render(landscape_figure(problem), folder / "a.html");
    const std::string page = read_file(folder / "a.html");
    CHECK(!contains(page, "<b>kiln"));
    CHECK(contains(page, "<title>&lt;/script&gt;&lt;b&gt;kiln&lt;/b&gt; &amp; &quot;glaze&quot;</title>"));
    CHECK(data_of(page).at("figures").at(0).at("title") == "</script><b>kiln</b> & \"glaze\"");
  }

  TEST_CASE("a film has the frames that were asked for, the first and the last among them") {
    const Problem valley = testbed::problem("rosenbrock");
    const Figure whole = solve_figure(valley, with_points(valley, "nelder-mead"));
    const Figure thin = with_frames(whole, 5);
    REQUIRE(thin.frames.size() == 5);
    CHECK(thin.frames.front() == whole.frames.front());
    CHECK(thin.frames.back() == whole.frames.back());
    CHECK(layers_of<LineLayer>(thin.panels[0]).front().shown.back() ==
          layers_of<LineLayer>(whole.panels[0]).front().shown.back());
    CHECK(with_frames(whole, 10'000).frames.size() == whole.frames.size());
    const TemporaryFolder folder;
    render(with_frames(whole, 3), folder / "a.gif");
    const std::string film = read_file(folder / "a.gif");
    CHECK(film.starts_with("GIF89a"));
    std::size_t pictures = 0; // each has its own control block
    for (std::size_t at = 0; (at = film.find(std::string("\x21\xF9\x04", 3), at)) != std::string::npos; ++at)
      ++pictures;
    CHECK(pictures == 3);
    CHECK_THROWS_WITH_AS(render(landscape_figure(valley), folder / "b.gif"),
                         doctest::Contains("nothing in this figure moves"), InputError);
    CHECK(std::distance(std::filesystem::directory_iterator(folder.path()), {}) == 1);
  }
}
