#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <nlohmann/json.hpp>

using testing::contains;

namespace {

const std::string firing = testing::example_file("glaze-firing.toml");
const std::string kiln = testing::example_file("round-kiln.toml");

} // namespace

TEST_SUITE("sample") {
  TEST_CASE("the first rows in decision and in objective space, and how many no other dominates") {
    const auto result = testing::tanzen({"sample", firing, "--points", "50", "--rows", "3"});
    CHECK(result.code == 0);
    CHECK(contains(result.out, "glaze-firing, 2 variables, 50 random points"));
    CHECK(contains(result.out, "member   ramp   soak"));
    CHECK(contains(result.out, "member      gas  breakage"));
    CHECK(contains(result.out, "of 50 are dominated by no other"));
    CHECK(testing::tanzen({"sample", firing, "--points", "50", "--rows", "3"}).out == result.out);
    CHECK(testing::tanzen({"sample", firing, "--points", "50", "--rows", "3", "--seed", "2"}).out != result.out);
  }

  TEST_CASE("of one objective the best is marked, of constraints a feasible one; of many variables some are shown") {
    const auto many = testing::tanzen({"sample", "rastrigin:dim=30", "--points", "20", "--rows", "20"});
    CHECK(contains(many.out, "...      x30"));
    CHECK(contains(many.out, "  best\n"));
    const auto object = nlohmann::json::parse(testing::tanzen({"sample", kiln, "--points", "40", "--json"}).out);
    CHECK(object["points"].size() == 40);
    const auto best = object["best"].get<std::size_t>();
    const double radius = object["points"][best][0].get<double>(), wall = object["points"][best][1].get<double>();
    CHECK(0.8 * radius <= wall + 1e-6);
    CHECK(object["nondominated"].empty());
  }

  TEST_CASE("what it writes is a table that the front is taken of") {
    const testing::TemporaryFolder folder;
    const std::string file = (folder / "drawn.csv").string();
    const auto drawn = testing::tanzen(
        {"sample", firing, "--points", "60", "--sampling", "latin-hypercube", "--json", "--write", file});
    const auto front = testing::tanzen({"front", file, "--objectives", "gas,breakage", "--json"});
    CHECK(nlohmann::json::parse(drawn.out)["nondominated"] == nlohmann::json::parse(front.out)["nondominated"]);
  }

  TEST_CASE("of several objectives the picture has both spaces, of many variables without a thicket of lines") {
    const testing::TemporaryFolder folder;
    CHECK(testing::tanzen({"figure", "sample", firing, "--points", "50", "--output", (folder / "few.svg").string()})
              .code == 0);
    const std::string few = tanzen::read_file(folder / "few.svg");
    for (const char* word : {"breakage", "ranks 2 to 4", "variables, in parts of the region", "soak"})
      CHECK(contains(few, word));
    tanzen::write_file(folder / "many.toml",
                       "[problem]\nname = \"many\"\nobjectives = { one = \"minimize x[1]\", two = "
                       "\"minimize sum(i = 1..30, x[i]^2) - 2*x[1]\" }\n[variables]\nx = { count = "
                       "30, lower = 0, upper = 1 }\n");
    CHECK(testing::tanzen({"figure", "sample", (folder / "many.toml").string(), "--points", "50", "--output",
                           (folder / "many.svg").string()})
              .code == 0);
    CHECK(contains(tanzen::read_file(folder / "many.svg"), "the middle half of all"));
  }

  TEST_CASE("what is wrong is told with what would be right") {
    CHECK(contains(testing::tanzen({"sample", firing, "--sampling", "sobel"}).err, "did you mean 'sobol'?"));
    CHECK(contains(testing::tanzen({"sample", firing, "--write", "x.txt"}).err, "ends in .csv"));
    CHECK(contains(testing::tanzen({"sample", "rosenbrok"}).err, "did you mean 'rosenbrock'?"));
  }
}
