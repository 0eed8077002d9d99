// What the program says of ends, of noise, and of all that was looked at.
#include "tanzen/files/outcome_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>

using testing::contains;
using testing::ProgramResult;
using testing::tanzen_line;
using testing::TemporaryFolder;

using Json = nlohmann::json;

namespace {

/// A CSV's cells, a row a line, the header first.
std::vector<std::vector<std::string>> cells_of(const std::filesystem::path& path) {
  std::ifstream file(path);
  std::vector<std::vector<std::string>> rows;
  for (std::string line; std::getline(file, line);) {
    std::istringstream cells(line);
    rows.emplace_back();
    for (std::string cell; std::getline(cells, cell, ',');) rows.back().push_back(cell);
  }
  return rows;
}

} // namespace

TEST_SUITE("ends on the command line") {
  TEST_CASE("a value that falls without end is told with its way, and is no convergence") {
    const ProgramResult text =
        tanzen_line(R"~(tanzen solve --formula "-x-y" --from 0.5,0.25 --with nelder-mead --quiet)~");
    CHECK(text.code == 1);
    CHECK(contains(text.out, "stopped       the value falls without end along ("));
    CHECK_FALSE(contains(text.out, "converged "));
    const ProgramResult result =
        tanzen_line(R"~(tanzen solve --formula "log(x)" --from 1 --with newton-trust-region --json)~");
    const Json json = Json::parse(result.out);
    CHECK(json.at("status") == "unbounded");
    CHECK(json.at("converged") == false);
    CHECK(json.at("checked").at("falls_along") == Json{-1.0});
    CHECK_FALSE(contains(result.out, "flat region"));
    const auto read = tanzen::outcome_from_json(result.out);
    REQUIRE(read.outcome.checked.fall);
    CHECK(read.outcome.checked.fall->direction[0] == -1);
    const Json bounded = Json::parse(tanzen_line("tanzen solve rosenbrock --with bfgs --json").out);
    CHECK(bounded.at("checked").at("falls_along").is_null());
  }

  TEST_CASE("a small unit of the value is no convergence") {
    const ProgramResult result =
        tanzen_line(R"~(tanzen solve --formula "1e-10*((x-3)^2+100*(y+1)^2)" --from 0,0 --with bfgs --json)~");
    const Json json = Json::parse(result.out);
    CHECK(json.at("converged") == true);
    CHECK(json.at("point").at(0).get<double>() == doctest::Approx(3).epsilon(1e-6));
    CHECK(contains(json.at("message").get<std::string>(), "relative gradient"));
  }

  TEST_CASE("a variable that hides a constant is noted") {
    CHECK(contains(tanzen_line(R"~(tanzen solve --formula "e^2 + x^2" --variables e,x --from 1,1 --with bfgs)~").out,
                   "note          e is a variable here, not the constant"));
    CHECK_FALSE(contains(tanzen_line(R"~(tanzen solve --formula "x^2 + e" --from 1 --with bfgs)~").out, "note  "));
  }

  TEST_CASE("all minima of an interval are listed, its ends among them") {
    const ProgramResult result = tanzen_line(
        R"~(tanzen solve --formula "sin(3*x) + 0.1*x^2" --region -5:5 --with interval-scan --all-minima --json)~");
    const Json json = Json::parse(result.out);
    // As many as values on a fine grid have, with the ends where the curve rises from them.
    const auto curve = [](int k) { return std::sin(3 * (-5 + k * 1e-3)) + 0.1 * std::pow(-5 + k * 1e-3, 2); };
    std::size_t there = 0;
    for (int k = 0; k <= 10'000; ++k)
      there += (k == 0 || curve(k) < curve(k - 1)) && (k == 10'000 || curve(k) <= curve(k + 1)) ? 1 : 0;
    CHECK(there > 4);
    CHECK(json.at("minima").size() == there);
    const ProgramResult rising =
        tanzen_line(R"~(tanzen solve --formula "-x^2" --region -1:2 --with interval-scan --all-minima --json)~");
    REQUIRE(Json::parse(rising.out).at("minima").size() == 2);
    CHECK(Json::parse(rising.out).at("minima").at(0).at("point").at(0) == 2.0); // the deeper end first
  }
}

TEST_SUITE("every visit") {
  TEST_CASE("a climb's neighbours and a bracket's places are written with their values") {
    const TemporaryFolder folder;
    const ProgramResult climb =
        tanzen_line("tanzen solve rosenbrock --with hill-climb:neighbours=6 --iterations 5 --quiet --visits climb.csv",
                    folder.path());
    CHECK(contains(climb.out, "visits        climb.csv"));
    const auto rows = cells_of(folder / "climb.csv");
    CHECK(rows.front() == std::vector<std::string>{"visit", "iteration", "value", "best", "x1", "x2"});
    REQUIRE(rows.size() == 1 + 1 + 5 * 6); // the header, the start, the neighbours
    CHECK(std::stod(rows[1][2]) == doctest::Approx(24.2));
    CHECK(rows[1][3] == "1"); // the best so far
    for (std::size_t k = 2; k < rows.size(); ++k) {
      CHECK(rows[k][1] == std::to_string(1 + (k - 2) / 6));
      const double x = std::stod(rows[k][4]), y = std::stod(rows[k][5]);
      CHECK(std::stod(rows[k][2]) == doctest::Approx(100 * (y - x * x) * (y - x * x) + (1 - x) * (1 - x)));
    }
    const ProgramResult golden = tanzen_line(
        R"~(tanzen solve --formula "x^2 - x" --region -3:3 --from 2 --with golden-section --json --visits golden.csv)~",
        folder.path());
    const auto places = cells_of(folder / "golden.csv");
    CHECK(static_cast<int>(places.size()) - 1 == Json::parse(golden.out).at("evaluations").get<int>());
  }

  TEST_CASE("what cannot be written is told before the run") {
    CHECK(
        contains(tanzen_line("tanzen solve rosenbrock --visits v.txt").err, "visits are written as .csv, not 'v.txt'"));
    CHECK(contains(tanzen_line("tanzen solve rosenbrock --repeats 3 --visits v.csv").err, "leave --repeats away"));
    CHECK(contains(tanzen_line("tanzen solve rosenbrock --trace v.csv --visits v.csv").err, "both write to"));
  }
}

TEST_SUITE("noise on the command line") {
  TEST_CASE("its level is told, in words and as JSON") {
    const ProgramResult text = tanzen_line("tanzen check noise sphere:dim=5,noise=normal:0.01 --at 1,1,1,1,1");
    CHECK(text.code == 0);
    CHECK(contains(text.out, "noise         about 0.0"));
    CHECK(contains(text.out, "bfgs:noise=0"));
    const Json json =
        Json::parse(tanzen_line("tanzen check noise sphere:dim=5,noise=normal:0.01 --at 1,1,1,1,1 --json").out);
    CHECK(json.at("noise").get<double>() > 0.0025);
    CHECK(json.at("noise").get<double>() < 0.04);
    CHECK(json.at("evaluations").get<int>() <= 45);
    CHECK(contains(tanzen_line("tanzen check noise rosenbrock").out, "the rounding of numbers"));
    CHECK(contains(tanzen_line(R"~(tanzen check noise --formula "0*x + 3" --at 1)~").out,
                   "none: all values about the point are equal"));
    CHECK(tanzen_line("tanzen check noise sphere --at 1").code == 2);
  }

  TEST_CASE("a run on noisy values names it, and judges the gap without it") {
    const ProgramResult result =
        tanzen_line("tanzen solve sphere:dim=10,noise=normal:1 --with cma-es --gap 1e-8 --evaluations 5000 --quiet");
    CHECK(result.code == 1);
    CHECK(contains(result.out, "without the noise"));
    CHECK(contains(result.out, "the values carry noise of about"));
  }
}
