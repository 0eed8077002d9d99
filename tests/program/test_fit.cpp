#include "tanzen/files/write_file.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>
#include <fstream>

#include <nlohmann/json.hpp>

using testing::contains;

namespace {

const std::string cooling = testing::example_file("cooling.csv");
const std::string shelves = testing::example_file("two-shelves.csv");
const std::string fits = std::string(TANZEN_SOURCE) + "/data/fits/";
const std::string lewis = "moisture = first*exp(-rate*hours*exp(warmth*celsius))";
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
    CHECK(contains(result.out, "at minutes=100 celsius 700.13198, 95 % within 2.134"));
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

  TEST_CASE("rows that are measured again tell whether the model lacks something") {
    // By hand: squares of 8.004 about the line, of 0.2 within the pairs; F = (8.004 / 2) / (0.2 / 4).
    const testing::TemporaryFolder folder;
    std::ofstream(folder / "clay.csv") << "hours,dry\n1,1.0\n1,1.2\n2,4.1\n2,3.9\n3,9.2\n3,8.8\n4,16.1\n4,15.7\n";
    const auto line = testing::tanzen({"fit", "clay.csv", "--model", "dry = a + b*hours"}, folder.path());
    CHECK(line.code == 0);
    CHECK(contains(line.out, "4 groups of repeated rows, F 80, p 0.00059: the model leaves more than"));
    const auto bent = testing::tanzen({"fit", "clay.csv", "--model", "dry = a + b*hours^2"}, folder.path());
    CHECK(contains(bent.out, ": the repeats explain what"));
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

  TEST_CASE("two methods that agree are worth more than one, and where they do not, the lower sum is told") {
    const auto agreed = testing::tanzen({"fit", cooling, "--model", newton, "--from", "room=20,peak=1000,rate=0.01"});
    CHECK(contains(agreed.out, "variable-projection comes to the same sum"));
    const auto drying = testing::tanzen(
        {"fit", fits + "drying.csv", "--model", lewis, "--from", "first=10,rate=0.1,warmth=0.05", "--json"});
    CHECK(drying.code == 0);
    const auto object = nlohmann::json::parse(drying.out);
    CHECK(object["method"] == "variable-projection");
    CHECK(contains(object["second"].get<std::string>(), "levenberg-marquardt stopped at the sum 1771.5"));
    CHECK(object["sum_after"].get<double>() == doctest::Approx(7.126216687).epsilon(1e-9));
    const auto one = testing::tanzen({"fit", cooling, "--model", newton, "--with", "dogleg"});
    CHECK_FALSE(contains(one.out, "same sum"));
  }

  TEST_CASE("two columns of one table share their parameters, each with errors of its own") {
    const testing::TemporaryFolder folder;
    const std::vector<std::string> both{"fit",     shelves,
                                        "--model", "top = room + hot*exp(-rate*minutes)",
                                        "--model", "bottom = room + warm*exp(-rate*minutes)"};
    std::vector<std::string> arguments = both;
    for (const char* more : {"--errors", "6", "--errors", "bottom_error", "--at", "minutes=100", "--figure"})
      arguments.emplace_back(more);
    arguments.push_back((folder / "both.svg").string());
    const auto result = testing::tanzen(arguments);
    CHECK(result.code == 0);
    CHECK(contains(result.out, "two-shelves, 14 rows of top and bottom, 4 parameters"));
    CHECK(contains(result.out, "24 degrees of freedom"));
    CHECK(contains(result.out, "at minutes=100 top "));
    CHECK(contains(result.out, "at minutes=100 bottom "));
    CHECK(contains(tanzen::read_file(folder / "both.svg"), "residuals of bottom"));
    // Errors are a formula of the columns, and weights their inverse squares.
    std::vector<double> rates;
    for (const auto& [option, formula, degrees] : {std::tuple{"--errors", "2*bottom_error", 24},
                                                   {"--weights", "1/bottom_error^2", 24},
                                                   {"--weights", "if(minutes < 170, 1, 0)", 10}}) {
      arguments = both;
      arguments.insert(arguments.end(), {option, formula, "--json"});
      const auto object = nlohmann::json::parse(testing::tanzen(arguments).out);
      rates.push_back(object["parameters"][1]["value"].get<double>());
      CHECK(object["degrees_of_freedom"] == degrees);
    }
    CHECK(rates[0] == doctest::Approx(rates[1]).epsilon(1e-9));
    CHECK(rates[2] != doctest::Approx(rates[1]).epsilon(1e-6));
  }

  TEST_CASE("over two predictors the picture has the points and the surface") {
    const testing::TemporaryFolder folder;
    const auto result = testing::tanzen({"fit", fits + "drying.csv", "--model", lewis, "--from",
                                         "first=25,rate=0.03,warmth=0.02", "--figure", (folder / "dry.svg").string()});
    CHECK(result.code == 0);
    const std::string picture = tanzen::read_file(folder / "dry.svg");
    for (const char* name : {"moisture", "celsius", "hours"}) CHECK(contains(picture, name));
  }

  TEST_CASE("the fits of the testbed ship as files, which say what the testbed says") {
    const testing::TemporaryFolder folder;
    int count = 0;
    for (const auto& function : tanzen::testbed::all()) {
      if (!function.fit) continue;
      ++count;
      if (count % 10 != 1) continue;
      const auto result =
          testing::tanzen({"problems", function.name, "--write", (folder / (function.name + ".toml")).string()});
      CHECK(result.code == 0);
      for (const char* ending : {".toml", ".csv"})
        CHECK(tanzen::read_file(folder / (function.name + ending)) == tanzen::read_file(fits + function.name + ending));
    }
    CHECK(count >= 40);
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
    CHECK(contains(said({"--model", "celsius = a*minutes", "--errors", "minutes"}),
                   "must be above 0, and are 0 in row 1"));
    CHECK(contains(said({"--model", "celsius = a*minutes", "--errors", "2", "--weights", "2"}),
                   "has errors or weights, not both"));
    CHECK(contains(said({"--model", "celsius = a*minutes", "--errors", "2", "--errors", "3"}),
                   "--errors is there 2 times for 1 model"));
    CHECK(contains(said({"--model", "celsius = a*minutes", "--at", "hours=3"}), "the table has no column 'hours'"));
    CHECK(contains(said({"--model", "celsius = a*minutes", "--with", "newtonn"}), "there is no method 'newtonn'"));
    CHECK(contains(said({"--model", "celsius = a*minutes", "--write", "x.txt"}), "ends in .toml"));
  }
}
