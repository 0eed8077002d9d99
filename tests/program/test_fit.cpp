#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <nlohmann/json.hpp>

using testing::contains;

namespace {

const std::string cooling = std::string(TANZEN_SOURCE) + "/examples/cooling.csv";
const std::string newton = "celsius = room + (peak - room)*exp(-rate*minutes)";

} // namespace

TEST_SUITE("fit") {
  TEST_CASE("the kiln's cooling: parameters, errors, intervals, what is left, and a prediction") {
    const auto result = testing::tanzen(
        {"fit", cooling, "--model", newton, "--from", "room=20,peak=1000,rate=0.01", "--at", "minutes=100"});
    CHECK(result.code == 0);
    CHECK(contains(result.out, "cooling, 10 rows, 3 parameters    levenberg-marquardt"));
    CHECK(contains(result.out, "sum 596988.56 before, 27.33625 after"));
    CHECK(contains(result.out, "peak          1231.4148      1.58774     1227.66     1235.17"));
    CHECK(contains(result.out, "residual standard deviation 1.97615, 7 degrees of freedom, R squared 0.999981"));
    CHECK(contains(result.out, "at minutes=100 700.13198, 95 % within 2.134"));
    CHECK_FALSE(contains(result.out, "hint"));
  }

  TEST_CASE("the same as one object, and with a start that is searched for") {
    const auto result = testing::tanzen({"fit", cooling, "--model", newton, "--json"});
    CHECK(result.code == 0);
    const auto object = nlohmann::json::parse(result.out);
    CHECK(object["parameters"].size() == 3);
    CHECK(object["parameters"][2]["name"] == "room");
    CHECK(object["parameters"][2]["value"].get<double>() == doctest::Approx(20.7016275).epsilon(1e-7));
    CHECK(object["parameters"][2]["error"].get<double>() == doctest::Approx(2.2448083).epsilon(1e-6));
    CHECK(object["degrees_of_freedom"] == 7);
    CHECK(object["converged"] == true);
    CHECK(object["sum_after"].get<double>() == doctest::Approx(27.336250458));
    CHECK(object["checked"]["stationary"] == "stationary");
  }

  TEST_CASE("losses, fixed numbers, bounds and other methods") {
    const auto tukey = testing::tanzen({"fit", cooling, "--model", newton, "--loss", "tukey"});
    CHECK(tukey.code == 0);
    CHECK(contains(tukey.out, "its scale estimated from the residuals"));
    const auto fixed =
        testing::tanzen({"fit", cooling, "--model", newton, "--fix", "room=20", "--from", "peak=1000,rate=0.01"});
    CHECK(fixed.code == 0);
    CHECK(contains(fixed.out, "2 parameters"));
    const auto bounded = testing::tanzen(
        {"fit", cooling, "--model", newton, "--from", "room=15,peak=1000,rate=0.01", "--bounds", "room=0:18"});
    CHECK(contains(bounded.out, "held by its bound"));
    CHECK(contains(bounded.out, "a bound holds room"));
    const auto plain =
        testing::tanzen({"fit", cooling, "--model", newton, "--from", "room=20,peak=1000,rate=0.01", "--with", "bfgs"});
    CHECK(contains(plain.out, "27.33625 after"));
  }

  TEST_CASE("intervals of three kinds, near each other where the model is nearly linear") {
    std::vector<double> lower;
    for (const char* kind : {"linearized", "profile", "bootstrap"}) {
      CAPTURE(kind);
      const auto result = testing::tanzen({"fit", cooling, "--model", newton, "--intervals", kind, "--json"});
      const auto object = nlohmann::json::parse(result.out);
      CHECK(object["intervals"] == kind);
      lower.push_back(object["parameters"][1]["lower"].get<double>());
    }
    CHECK(lower[1] == doctest::Approx(lower[0]).epsilon(2e-3));
    CHECK(lower[2] == doctest::Approx(lower[0]).epsilon(1e-2));
    const auto wrong = testing::tanzen({"fit", cooling, "--model", newton, "--intervals", "profiles"});
    CHECK(wrong.code == 2);
    CHECK(contains(wrong.err, "did you mean 'profile'"));
  }

  TEST_CASE("the fitted model as a problem file, and the picture") {
    const testing::TemporaryFolder folder;
    const auto result =
        testing::tanzen({"fit", cooling, "--model", newton, "--from", "room=20,peak=1000,rate=0.01", "--write",
                         (folder / "fitted.toml").string(), "--figure", (folder / "fit.svg").string()});
    CHECK(result.code == 0);
    const auto again =
        testing::tanzen({"solve", (folder / "fitted.toml").string(), "--with", "levenberg-marquardt", "--quiet"});
    CHECK(again.code == 0);
    CHECK(contains(again.out, "27.33625"));
    const std::string picture = tanzen::read_file(folder / "fit.svg");
    CHECK(contains(picture, "at the start"));
    CHECK(contains(picture, "studentized residuals"));
  }

  TEST_CASE("what is wrong is told with what would be right") {
    const auto said = [](std::vector<std::string> arguments) {
      arguments.insert(arguments.begin(), {"fit", cooling});
      const auto result = testing::tanzen(arguments);
      CHECK(result.code == 2);
      CHECK(result.out.empty());
      return result.err;
    };
    CHECK(contains(said({}), "a model is needed: --model"));
    CHECK(contains(said({"--model", "celsius"}), "a model is an equation"));
    CHECK(contains(said({"--model", "a = b*c"}), "the model names no column of"));
    CHECK(contains(said({"--model", "celsius = minutes"}), "the model has no parameter"));
    CHECK(contains(said({"--model", "celsius = a*minutes", "--from", "b=1"}), "--from: there is no variable 'b'"));
    CHECK(contains(said({"--model", "celsius = a*minutes", "--from", "minutes=1"}),
                   "--from: there is no variable 'minutes'"));
    CHECK(contains(said({"--model", "celsius = a*minutes", "--loss", "hubert"}), "there is no loss 'hubert'"));
    CHECK(contains(said({"--model", "celsius = a*minutes", "--errors", "sd"}), "the table has no column 'sd'"));
    CHECK(contains(said({"--model", "celsius = a*minutes", "--at", "hours=3"}), "the table has no column 'hours'"));
    CHECK(contains(said({"--model", "celsius = a*minutes", "--with", "newtonn"}), "there is no method 'newtonn'"));
    CHECK(contains(said({"--model", "celsius = a*minutes", "--write", "x.txt"}), "ends in .toml"));
  }
}
