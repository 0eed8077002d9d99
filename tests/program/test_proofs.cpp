// Proofs on the command line.
#include "tanzen/files/outcome_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <filesystem>
#include <nlohmann/json.hpp>
#include <string>

using testing::contains;
using testing::example_file;
using testing::ProgramResult;
using testing::tanzen_line;

namespace {}

TEST_SUITE("proofs on the command line") {
  TEST_CASE("a run that proves says so, with every minimizer, and its JSON reads back") {
    const ProgramResult text = tanzen_line("tanzen solve himmelblau --with branch-and-bound --quiet");
    CHECK(text.code == 0);
    CHECK(contains(text.out, "proved        within the region the best value lies from"));
    for (const char* place :
         {"(3, 2) within", "(-2.8051180869527", "(-3.7793102533777", "(3.5844283403304", ", -1.848126526964"})
      CHECK(contains(text.out, place));
    CHECK(contains(text.out, "no global minimizer lies elsewhere"));
    const ProgramResult result = tanzen_line("tanzen solve himmelblau --with branch-and-bound --json");
    const auto json = nlohmann::json::parse(result.out);
    CHECK(json.at("status") == "proved");
    CHECK(json.at("converged") == true);
    CHECK(json.at("proof").at("boxes").size() == 4);
    const auto read = tanzen::outcome_from_json(result.out);
    REQUIRE(read.outcome.proof);
    CHECK(read.outcome.proof->boxes.size() == 4);
    CHECK(read.outcome.proof->boxes[0].holds == tanzen::Proof::Holds::one);
    CHECK(read.outcome.proof->lower <= 0);
    CHECK(read.outcome.proof->upper >= 0);
  }

  TEST_CASE("after any run it is proved whether something is better") {
    const ProgramResult there = tanzen_line("tanzen solve himmelblau --with nelder-mead --from 0,0 --prove --quiet");
    CHECK(contains(there.out, "global        nothing within the region is better than what was found"));
    const ProgramResult local = tanzen_line("tanzen solve six-hump-camel --with bfgs --from 1.6,0.6 --prove --quiet");
    CHECK(contains(local.out, "not global    -1.03162845"));
    // However little time there is, it says what is known.
    const ProgramResult none =
        tanzen_line("tanzen solve michalewicz:dim=10 --evaluations 50 --prove --proof-seconds 0 --quiet");
    CHECK(none.code == 1);
    CHECK(contains(none.out, "undecided     the limit of 0 s is reached"));
    const ProgramResult program =
        tanzen_line("tanzen solve sphere:noise=normal:0.1 --with cma-es --evaluations 200 --prove --quiet");
    CHECK(contains(program.out, "undecided     branch-and-bound works on formulas"));
    const ProgramResult repeated = tanzen_line("tanzen solve himmelblau --repeats 3 --prove");
    CHECK(repeated.code == 2);
    CHECK(contains(repeated.err, "--prove looks at one run; leave --repeats away"));
  }

  TEST_CASE("whether something is better is told to machines too") {
    const ProgramResult local = tanzen_line("tanzen solve six-hump-camel --with bfgs --from 1.6,0.6 --prove --json");
    const auto global = nlohmann::json::parse(local.out).at("global");
    CHECK(global.at("verdict") == "not global");
    CHECK(global.at("value").get<double>() == doctest::Approx(-1.0316284534898774).epsilon(1e-12));
    CHECK(global.at("point").size() == 2);
    CHECK(global.at("proof").at("boxes").size() == 2);
    CHECK(global.at("bound").get<double>() <= -1.031628453489877);
    CHECK_NOTHROW(static_cast<void>(tanzen::outcome_from_json(local.out)));
    const ProgramResult plain = tanzen_line("tanzen solve six-hump-camel --with bfgs --from 1.6,0.6 --json");
    CHECK_FALSE(nlohmann::json::parse(plain.out).contains("global"));
  }

  TEST_CASE("what is stated of a problem is set beside what is proved") {
    const ProgramResult right = tanzen_line("tanzen check minima six-hump-camel");
    CHECK(right.code == 0);
    CHECK(contains(right.out, "agrees        the stated value is that of the proof"));
    const ProgramResult none = tanzen_line(R"~(tanzen check minima --formula "x^4 - 3*x^2 + x" --region -3:3)~");
    CHECK(none.code == 0);
    CHECK(contains(none.out, "stated        no best value"));
    CHECK(contains(none.out, "proved        within the region the best value lies from -3.51390"));
    CHECK(tanzen_line("tanzen check minima michalewicz:dim=10 --seconds 0.2").code == 1);
  }

  TEST_CASE("all stationary points are listed with a proof, under an equality too, and what is not proved says so") {
    const ProgramResult text = tanzen_line("tanzen stationary himmelblau --prove");
    CHECK(text.code == 0);
    CHECK(contains(text.out, "181.6165215  maximum  -0.2708445907"));
    CHECK(contains(text.out, "no other stationary point lies in the region"));
    const auto json =
        nlohmann::json::parse(tanzen_line("tanzen stationary " + example_file("rim.toml") + " --prove --json").out);
    CHECK(json.at("complete") == true);
    CHECK(json.at("points").size() == 4);
    for (const auto& point : json.at("points")) {
      CHECK(point.at("value")[0].get<double>() <= point.at("value")[1].get<double>());
      CHECK(point.at("lower").size() == 2);
      CHECK(point.at("multipliers")[0].size() == 1);
    }
    const ProgramResult valley =
        tanzen_line(R"~(tanzen stationary --formula "(x - y)^2" --region -1:1 --prove --proof-seconds 1)~");
    CHECK(valley.code == 1);
    CHECK(contains(valley.out, "complete      not proved"));
    const ProgramResult inequality = tanzen_line("tanzen stationary " + example_file("round-kiln.toml") + " --prove");
    CHECK(inequality.code == 2);
    CHECK(contains(inequality.err, "stationary points are found under equality constraints"));
  }

  TEST_CASE("a constrained optimum is proved, and that nothing is feasible") {
    const ProgramResult kiln =
        tanzen_line("tanzen solve " + example_file("round-kiln.toml") + " --with branch-and-bound --quiet");
    CHECK(kiln.code == 0);
    CHECK(contains(kiln.out, "proved        within the region the best value lies from 4.3295905"));
    CHECK(contains(kiln.out, "exactly one there"));
  }

  TEST_CASE("the whole testbed's minima are checked at once") {
    const ProgramResult all = tanzen_line("tanzen check minima --all --seconds 0.02");
    CHECK(all.code == 0);
    CHECK(contains(all.out, "himmelblau"));
    CHECK(contains(all.out, "; 0 refuted"));
    const ProgramResult both = tanzen_line("tanzen check minima himmelblau --all");
    CHECK(both.code == 2);
    CHECK(contains(both.err, "--all is every function of the testbed: leave the problem away"));
  }

  TEST_CASE("a proof is drawn, and what cannot be drawn is refused") {
    const testing::TemporaryFolder folder;
    const std::string file = (folder / "boxes.svg").string();
    CHECK(tanzen_line("tanzen figure boxes branin --output " + file).code == 0);
    CHECK(std::filesystem::file_size(file) > 10'000);
    const ProgramResult three = tanzen_line("tanzen figure boxes sphere:dim=3 --output " + file);
    CHECK(three.code == 2);
    CHECK(contains(three.err, "boxes are drawn of two variables, and sphere:dim=3 has 3"));
  }
}
