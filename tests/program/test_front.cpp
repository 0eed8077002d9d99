#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <nlohmann/json.hpp>

using testing::contains;

namespace {

const std::string glaze = testing::example_file("glaze-points.csv");
const std::string glaze_firing = testing::example_file("glaze-firing.toml");

} // namespace

TEST_SUITE("front") {
  TEST_CASE("the trials of a glaze glaze_firing: which no other dominates, and what they cover") {
    const auto result = testing::tanzen({"front", glaze, "--objectives", "gas,breakage", "--reference", "60,70"});
    CHECK(result.code == 0);
    CHECK(contains(result.out, "glaze-points, 40 points of 2 objectives: gas, breakage"));
    CHECK(contains(result.out, "17 of 40 are dominated by no other"));
    CHECK(contains(result.out, "ideal         (11.48, 12.01)"));
    CHECK(contains(result.out, "towards (60,70)"));
    CHECK_FALSE(contains(result.out, "lie not below"));
  }

  TEST_CASE("the same by name, as one object, with an objective that is maximized, and its rows as a table") {
    const testing::TemporaryFolder folder;
    const auto result =
        testing::tanzen({"front", glaze, "--objectives", "gas,breakage", "--maximize", "gas", "--reference",
                         "breakage=60,gas=0", "--json", "--write", (folder / "kept.csv").string()});
    CHECK(result.code == 0);
    const auto object = nlohmann::json::parse(result.out);
    CHECK(object["nondominated"] == std::vector<int>{6, 13, 25});
    CHECK(object["ideal"][0].get<double>() > object["nadir"][0].get<double>()); // much gas is wanted
    CHECK(object["ideal"][1].get<double>() < object["nadir"][1].get<double>());
    CHECK(object["hypervolume"].get<double>() == doctest::Approx(3151.5639));
    const std::string kept = tanzen::read_file(folder / "kept.csv");
    CHECK(kept.starts_with("ramp,soak,gas,breakage\n"));
    CHECK(std::ranges::count(kept, '\n') == 4);
  }

  TEST_CASE("against the front that a method found: the trials miss some of it") {
    const testing::TemporaryFolder folder;
    const std::string found = (folder / "found.csv").string();
    CHECK(testing::tanzen({"solve", glaze_firing, "--with", "nondominated-sorting", "--evaluations", "3000", "--front",
                           found, "--quiet"})
              .code <= 1);
    const auto trials = nlohmann::json::parse(testing::tanzen({"front", glaze, "--objectives", "gas,breakage",
                                                               "--reference", "60,70", "--against", found, "--json"})
                                                  .out);
    CHECK(trials["against"]["inverted_distance_plus"].get<double>() > 0.1);
    CHECK(trials["against"]["additive_epsilon"].get<double>() > 0.1);
    CHECK(trials["against"]["hypervolume"].get<double>() > trials["hypervolume"].get<double>());
    const auto itself =
        testing::tanzen({"front", found, "--objectives", "gas,breakage", "--reference", "60,70", "--against", found});
    CHECK(contains(itself.out, "of which 100 % are covered"));
    CHECK(contains(itself.out, "inverted generational distance plus 0"));
  }

  TEST_CASE("what is wrong is told with what would be right") {
    const auto said = [](std::vector<std::string> arguments) {
      arguments.insert(arguments.begin(), {"front", glaze});
      const auto result = testing::tanzen(arguments);
      CHECK(result.code == 2);
      CHECK(result.out.empty());
      return result.err;
    };
    CHECK(contains(said({"--objectives", "gas,breakag"}), "did you mean 'breakage'?"));
    CHECK(contains(said({"--objectives", "gas"}), "a front has at least two"));
    CHECK(contains(said({"--objectives", "gas,breakage", "--reference", "60"}), "--reference"));
    CHECK(contains(said({"--objectives", "gas,breakage", "--reference", "1,1"}),
                   "is worse than no point in every objective, so that nothing is covered: give one beyond ("));
    CHECK(contains(said({"--objectives", "gas,breakage", "--maximize", "gass"}), "did you mean 'gas'?"));
    CHECK(contains(said({"--objectives", "gas,breakage", "--write", "x.txt"}), "ends in .csv"));
    const testing::TemporaryFolder folder;
    tanzen::write_file(folder / "other.csv", "gas,loss\n1,2\n");
    CHECK(contains(said({"--objectives", "gas,breakage", "--against", (folder / "other.csv").string()}),
                   "the table has no column 'breakage'"));
    std::string wide = "o1", row = "1";
    for (int k = 2; k <= 21; ++k) {
      wide += ",o" + std::to_string(k);
      row += ",1";
    }
    tanzen::write_file(folder / "wide.csv", wide + "\n" + row + "\n");
    const auto many = testing::tanzen({"front", (folder / "wide.csv").string()});
    CHECK(many.code == 2);
    CHECK(contains(many.err, "has 21 columns, and a front at most 20 objectives"));
  }
}
