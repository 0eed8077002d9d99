#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <filesystem>
#include <nlohmann/json.hpp>

using testing::contains;
using testing::tanzen_line;
using testing::TemporaryFolder;
using Json = nlohmann::json;

TEST_SUITE("fronts of runs") {
  TEST_CASE("solve tells what is covered, ends at a gap, and chooses one point with what others cost") {
    const auto result = tanzen_line("tanzen solve binh --with nondominated-sorting --gap 0.02 --prefer knee --quiet");
    CHECK(result.code == 0);
    CHECK(contains(result.out, "binh, 2 variables, 2 objectives"));
    CHECK(contains(result.out, "the gap is at most 0.02"));
    CHECK(contains(result.out, "% of what the true front covers"));
    CHECK(contains(result.out, "preferred     f1 "));
    CHECK(contains(result.out, "exchange      f1 lower by "));
    CHECK_FALSE(contains(result.out, "hint"));
    const auto json = Json::parse(tanzen_line("tanzen solve binh --with chebyshev --prefer weights:1,1 --json").out);
    CHECK(json["status"] == "method");
    CHECK(json["value"] > 0.98);
    const Json& preferred = json["preferred"];
    const Json& in_front = json["front"][preferred["front"].get<std::size_t>()];
    CHECK(in_front["objectives"] == preferred["objectives"]);
    CHECK(preferred["exchanges"].size() == 2);
    // By equal weights of two alike distances the point in the middle.
    CHECK(preferred["point"][0].get<double>() == doctest::Approx(2.5).epsilon(0.05));
  }

  TEST_CASE("repeats tell how many points each front has") {
    const auto result = tanzen_line("tanzen solve binh --repeats 3 --evaluations 500");
    CHECK(result.code == 0);
    CHECK(contains(result.out, "evaluations      front"));
    CHECK(contains(result.out, " points\n"));
    CHECK_FALSE(contains(result.out, "converged"));
  }

  TEST_CASE("a front is looked for with 25,000 evaluations where no limit is said") {
    const auto json = Json::parse(tanzen_line("tanzen solve zdt-4 --with generalized-differential --json").out);
    CHECK(json["evaluations"] == 25000);
  }

  TEST_CASE("a comparison of fronts has tables, sentences and pictures of its own") {
    const TemporaryFolder folder;
    const auto result =
        tanzen_line("tanzen compare binh zdt-3 dtlz-1 --with nondominated-sorting --with decomposition --repeats 3 "
                    "--evaluations 600 --figures figures",
                    folder.path());
    CHECK(result.code == 0);
    CHECK(contains(result.out, "binh: gaps, the share of the true front's volume that is not covered"));
    CHECK(contains(result.out, "A success is a gap of at most 0.01"));
    for (const char* figure : {"fronts.png", "bands.png", "runtimes.png", "accuracy.png"})
      CHECK(std::filesystem::file_size(folder / (std::string("figures/") + figure)) > 10'000);
  }

  TEST_CASE("the same results for any number of workers, and from a file with its fronts") {
    const TemporaryFolder folder;
    const std::string compare = "tanzen compare binh tanaka --with hypervolume-selection --with direct-multisearch "
                                "--repeats 3 --evaluations 400 --json";
    CHECK(tanzen_line(compare + " --workers 1").out == tanzen_line(compare + " --workers 2").out);
    tanzen::write_file(
        folder / "plan.toml",
        "repeats = 3\nproblems = [\"binh\", \"viennet-1\"]\n[methods]\nsorting = { use = \"nondominated-sorting\" }\n"
        "pattern = { use = \"direct-multisearch\" }\n[stop]\nevaluations = 400\n");
    CHECK(tanzen_line("tanzen campaign plan.toml", folder.path()).code == 0);
    const auto drawn = tanzen_line("tanzen figure fronts plan.results.sqlite --output fronts.png", folder.path());
    CAPTURE(drawn.err);
    CHECK(drawn.code == 0);
    CHECK(std::filesystem::file_size(folder / "fronts.png") > 10'000);
  }

  TEST_CASE("pictures of growth, of three objectives and of many") {
    const TemporaryFolder folder;
    for (const char* line :
         {"tanzen figure population zdt-1 --with decomposition --at 1,5,20 --evaluations 2500 --output a.png",
          "tanzen solve dtlz-2 --with reference-points --evaluations 600 --quiet --figure a.png",
          "tanzen solve dtlz-2:objectives=5 --with reference-points --evaluations 600 --quiet --figure a.png",
          "tanzen figure sample dtlz-2:objectives=6 --points 50 --output a.png"}) {
      CAPTURE(line);
      CHECK(tanzen_line(line, folder.path()).code == 0);
      CHECK(std::filesystem::file_size(folder / "a.png") > 10'000);
      std::filesystem::remove(folder / "a.png");
    }
  }

  TEST_CASE("cards tell the front, and the list finds them by their trait") {
    CHECK(contains(tanzen_line("tanzen problems dtlz-7").out, "front         f[M] = 2 M"));
    CHECK(contains(tanzen_line("tanzen problems wfg-3:objectives=4").out, "front         not known"));
    CHECK(contains(tanzen_line("tanzen problems --trait several-objectives").out, "  osyczka-kundu "));
  }
}
