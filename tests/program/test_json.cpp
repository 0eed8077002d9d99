// What machines read: one object a line, with the keys that are promised, saying what the text says.
#include "tanzen/base/text.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <nlohmann/json.hpp>

using namespace testing;
using nlohmann::json;

namespace {

std::vector<json> objects_of(const std::string& text) {
  std::vector<json> objects;
  for (const std::string& line : tanzen::split(text, '\n')) {
    if (!line.empty()) objects.push_back(json::parse(line));
  }
  return objects;
}

json object_of(const std::string& line) {
  const ProgramResult result = tanzen_line(line + " --json");
  CAPTURE(line);
  CAPTURE(result.err);
  CHECK(result.code <= 1);
  CHECK(result.err.empty());
  const auto objects = objects_of(result.out);
  REQUIRE(objects.size() == 1);
  return objects.front();
}

void has_keys(const json& object, std::initializer_list<const char*> keys) {
  for (const char* key : keys) {
    CAPTURE(key);
    CHECK(object.contains(key));
  }
}

} // namespace

TEST_SUITE("json") {
  TEST_CASE("a run has all that is promised of it, and null where it is not known") {
    const json run = object_of("tanzen solve himmelblau --with bfgs --from 0,0");
    has_keys(run, {"problem",    "dimension",  "sense",      "method",      "settings",      "seed",
                   "start",      "status",     "converged",  "message",     "value",         "point",
                   "last_value", "last_point", "iterations", "evaluations", "gradients",     "hessians",
                   "seconds",    "gap",        "distance",   "violation",   "gradient_norm", "checked",
                   "curvature",  "order",      "hints",      "constraints", "multipliers",   "front"});
    has_keys(run["checked"], {"stationary", "relative_gradient", "kkt", "kind", "how"});
    CHECK(run["problem"] == "himmelblau");
    CHECK(run["sense"] == "minimize");
    CHECK(run["status"] == "gradient");
    CHECK(run["converged"] == true);
    CHECK(run["checked"]["stationary"] == true);
    CHECK(run["checked"]["kind"] == "minimum");
    CHECK(run["point"].size() == 2);
    CHECK(run["gap"].get<double>() < 1e-12);
    CHECK(run["hints"].is_array());
    const json opaque = object_of("tanzen solve himmelblau --with nelder-mead --from 0,0 --iterations 3");
    CHECK(opaque["gradient_norm"].is_null());
    CHECK(opaque["converged"] == false);
  }

  TEST_CASE("the value and the point are those that the text tells") {
    const std::string line = "tanzen solve rosenbrock --with lbfgs --from -1.2,1";
    const json run = object_of(line);
    const std::string text = tanzen_line(line + " --quiet").out;
    CHECK(contains(text, tanzen::short_number(run["value"].get<double>(), 10)));
    CHECK(contains(text, tanzen::counted(run["iterations"].get<long long>(), "iteration")));
    CHECK(contains(text, tanzen::counted(run["evaluations"].get<long long>(), "evaluation")));
    CHECK(contains(text, run["message"].get<std::string>()));
  }

  TEST_CASE("maximized, a value is in the user's sense") {
    const json run = object_of("tanzen solve --formula 9*h*exp(-0.4*h) --variables h --from 1 --maximize --with bfgs");
    CHECK(run["sense"] == "maximize");
    CHECK(run["value"].get<double>() == doctest::Approx(9 * 2.5 * std::exp(-1)).epsilon(1e-10));
    CHECK(run["point"][0].get<double>() == doctest::Approx(2.5));
  }

  TEST_CASE("constraints come as a list with what they are worth") {
    const json run =
        object_of("tanzen solve " + testing::example_file("round-kiln.toml") + " --with augmented-lagrangian");
    REQUIRE(run["constraints"].size() == 2);
    for (const json& row : run["constraints"])
      has_keys(row, {"name", "value", "lower", "upper", "slack", "multiplier", "active"});
    CHECK(run["constraints"][0]["name"] == "capacity");
    CHECK(run["constraints"][0]["active"] == true);
    CHECK(run["constraints"][1]["active"] == false);
    CHECK(run["constraints"][0]["multiplier"].get<double>() > 0);
    CHECK(run["violation"].get<double>() <= 1e-6);
  }

  TEST_CASE("repeats are one object a line, with seeds counted up") {
    const ProgramResult result = tanzen_line("tanzen solve rastrigin --with nelder-mead --repeats 4 --seed 5 --json");
    const auto runs = objects_of(result.out);
    REQUIRE(runs.size() == 4);
    for (std::size_t k = 0; k < runs.size(); ++k) {
      CHECK(runs[k]["seed"] == 5 + k);
      CHECK(runs[k]["point"].size() == 2);
    }
    CHECK(runs[0]["start"] != runs[1]["start"]);
  }

  TEST_CASE("a front comes with its points, and a fit with its parameters") {
    const json run =
        object_of("tanzen solve " + testing::example_file("glaze-firing.toml") + " --evaluations 600 --seed 2");
    CHECK(run["front"].size() > 5);
    const json fit = object_of("tanzen fit " + testing::example_file("cooling.csv") +
                               " --model celsius=room+(peak-room)*exp(-rate*minutes)");
    has_keys(fit, {"parameters", "sum_before", "sum_after", "residual_sd", "degrees_of_freedom", "status", "converged",
                   "checked", "evaluations"});
    REQUIRE(fit["parameters"].size() == 3);
    for (const json& parameter : fit["parameters"]) {
      has_keys(parameter, {"name", "value", "error", "lower", "upper"});
      CHECK(parameter["lower"].get<double>() < parameter["value"].get<double>());
      CHECK(parameter["value"].get<double>() < parameter["upper"].get<double>());
    }
    CHECK(fit["degrees_of_freedom"] == 7);
    CHECK(fit["sum_after"].get<double>() == doctest::Approx(27.33625).epsilon(1e-6));
  }

  TEST_CASE("stationary points, indicators of fronts and samples have their keys") {
    const json found = object_of("tanzen stationary himmelblau");
    has_keys(found, {"points", "complete", "how"});
    CHECK(found["points"].size() == 9);
    for (const json& point : found["points"]) has_keys(point, {"value", "point", "multipliers", "kind", "eigenvalues"});
    const json front = object_of("tanzen front " + testing::example_file("glaze-points.csv") +
                                 " --objectives gas,breakage --reference 60,70");
    has_keys(front, {"nondominated", "hypervolume", "ideal", "nadir"});
    CHECK(front["nondominated"].size() == 17);
    const json sample = object_of("tanzen sample booth --points 12 --seed 3");
    CHECK(sample["points"].size() == 12);
    CHECK(sample["values"].size() == 12);
    CHECK(sample["best"].is_number());
  }

  TEST_CASE("the lists of problems and methods are lists of objects, all with a name and a source") {
    for (const char* line : {"tanzen problems", "tanzen methods"}) {
      const ProgramResult result = tanzen_line(std::string(line) + " --json");
      const json list = json::parse(result.out);
      REQUIRE(list.is_array());
      CHECK(list.size() > 50);
      for (const json& each : list) {
        CHECK(!each["name"].get<std::string>().empty());
        CHECK(!each["source"].get<std::string>().empty());
      }
    }
    const json card = object_of("tanzen problems rosenbrock:dim=5");
    CHECK(card["dimension"] == 5);
    CHECK(card["best_known"] == 0);
    CHECK(card["known_minima"][0]["point"] == json::array({1, 1, 1, 1, 1}));
  }

  TEST_CASE("a point of a problem is part of its object, and nothing follows it") {
    const json card = object_of("tanzen problems booth --at 1,2");
    has_keys(card["at"], {"point", "value", "gradient", "eigenvalues", "kind", "stationary", "how", "violation"});
    CHECK(card["at"]["value"] == 5);
    CHECK(card["at"]["gradient"] == json::array({-8, -10}));
    CHECK(card["at"]["stationary"] == false);
    const json kiln = object_of("tanzen problems " + testing::example_file("round-kiln.toml") + " --at 0.6,0.8");
    CHECK(kiln["at"]["constraints"].size() == 2);
    CHECK(kiln["at"]["violation"] == 0);
  }

  TEST_CASE("a comparison says what its text says") {
    const json all = object_of("tanzen compare booth rosenbrock --with bfgs --with nelder-mead --repeats 3");
    CHECK(all.is_object());
    const std::string text = all.dump();
    for (const char* word : {"booth", "rosenbrock", "bfgs", "nelder-mead"}) CHECK(contains(text, word));
  }
}
