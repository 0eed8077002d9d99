#include "tanzen/analysis/diagnosis.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/files/outcome_file.hpp"
#include "tanzen/files/trace_file.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <bit>
#include <cmath>

using namespace tanzen;
using testing::TemporaryFolder;

namespace {

Outcome some_run(bool points) {
  const Method descent = method("gradient-descent", {{"rule", "exact"}});
  return run(testbed::problem("rosenbrock"), descent,
             {.seed = 12, .stop = {.iterations = 20}, .trace = {.points = points}});
}

/// Equal to the bit, where NaN equals NaN.
bool same_cells(const Trace& a, const Trace& b) {
  if (a.rows() != b.rows() || a.column_names() != b.column_names()) return false;
  for (std::size_t row = 0; row < a.rows(); ++row) {
    for (std::size_t k = 0; k < a.row(row).size(); ++k) {
      const double x = a.at(row, k), y = b.at(row, k);
      if (std::bit_cast<std::uint64_t>(x) != std::bit_cast<std::uint64_t>(y) && !(std::isnan(x) && std::isnan(y)))
        return false;
    }
  }
  return true;
}

} // namespace

TEST_SUITE("trace files") {
  TEST_CASE("CSV and JSON Lines read back into the same trace") {
    for (const bool points : {false, true}) {
      const LabelledTrace written = labelled_trace(some_run(points));
      for (const LabelledTrace& read :
           {trace_from_csv(trace_to_csv(written)), trace_from_json_lines(trace_to_json_lines(written))}) {
        CHECK(same_cells(read.trace, written.trace));
        CHECK(read.trace.has_points() == points);
        CHECK(read.label.problem == "rosenbrock");
        CHECK(read.label.method == "gradient-descent");
        CHECK(read.label.seed == 12);
        CHECK(read.label.settings == written.label.settings);
        CHECK(read.label.version == version);
      }
    }
  }

  TEST_CASE("infinity and what is not known survive") {
    const Problem edge = Problem::black_box(1, [](const Vector& x) { return x[0] < 1 ? INFINITY : x[0]; }).start({0});
    const Outcome outcome = run(edge, method("nelder-mead"), {.stop = {.iterations = 3}, .trace = {.points = true}});
    const LabelledTrace written = labelled_trace(outcome);
    CHECK(std::isinf(written.trace.at(0, Trace::value)));
    CHECK(same_cells(trace_from_csv(trace_to_csv(written)).trace, written.trace));
    CHECK(same_cells(trace_from_json_lines(trace_to_json_lines(written)).trace, written.trace));
  }

  TEST_CASE("the CSV is as documented") {
    const std::string csv = trace_to_csv(labelled_trace(some_run(true)));
    CHECK(csv.starts_with(
        "# {\"problem\":\"rosenbrock\",\"method\":\"gradient-descent\",\"settings\":{\"rule\":\"exact\""));
    const std::size_t header = csv.find('\n') + 1;
    CHECK(
        csv.substr(header, csv.find('\n', header) - header) ==
        "iteration,evaluations,gradients,hessians,seconds,value,best_value,gradient_norm,step_norm,violation,kkt,step,"
        "trials,x1,x2");
  }

  TEST_CASE("a broken trace is refused with its line") {
    const std::string csv = trace_to_csv(labelled_trace(some_run(false)));
    const std::string lines = trace_to_json_lines(labelled_trace(some_run(false)));
    const auto second_line = csv.find('\n') + 1, third_line = csv.find('\n', second_line) + 1;
    CHECK_THROWS_WITH_AS((void)trace_from_csv(""), doctest::Contains("line 1"), InputError);
    CHECK_THROWS_WITH_AS((void)trace_from_csv("a,b\n1,2\n"), doctest::Contains("expected '#'"), InputError);
    CHECK_THROWS_WITH_AS((void)trace_from_csv("# {}\n" + csv.substr(second_line)), doctest::Contains("not complete"),
                         InputError);
    CHECK_THROWS_WITH_AS((void)trace_from_csv(csv.substr(0, second_line) + "value\n1\n"),
                         doctest::Contains("expected a column 'iteration'"), InputError);
    CHECK_THROWS_WITH_AS((void)trace_from_csv(csv.substr(0, third_line) + "1,2\n"),
                         doctest::Contains("line 3 of the trace: expected 13 cells, found 2"), InputError);
    CHECK_THROWS_WITH_AS((void)trace_from_csv(csv.substr(0, third_line) + "1,x,,,,,,,,,,,\n"),
                         doctest::Contains("'x' in column evaluations is no number"), InputError);
    CHECK_THROWS_WITH_AS((void)trace_from_json_lines(lines.substr(0, lines.size() - 20)),
                         doctest::Contains("expected a JSON object"), InputError);
    CHECK_THROWS_WITH_AS((void)trace_from_json_lines("{}\n"), doctest::Contains("line 1"), InputError);
  }

  TEST_CASE("the ending of the name chooses the form, and another ending is refused") {
    const TemporaryFolder folder;
    const Outcome outcome = some_run(true);
    for (const char* name : {"run.csv", "run.jsonl"}) {
      write_trace(folder / name, outcome);
      CHECK(same_cells(read_trace(folder / name).trace, outcome.trace));
    }
    CHECK_THROWS_WITH_AS(write_trace(folder / "run.xls", outcome), doctest::Contains(".csv or .jsonl, not 'run.xls'"),
                         InputError);
  }
}

TEST_SUITE("outcome files") {
  TEST_CASE("an outcome reads back from its JSON") {
    const Problem problem = testbed::problem("himmelblau");
    const Outcome outcome =
        run(problem, method("nelder-mead", {{"size", 0.5}}), {.seed = 4, .start = Coordinates{0, 0}});
    const Diagnosis diagnosis = diagnose(problem, outcome);
    const auto [read, found] = outcome_from_json(outcome_to_json(outcome, diagnosis));
    CHECK(read.problem == outcome.problem);
    CHECK(read.method_label == "nelder-mead:size=0.5");
    CHECK(read.status == outcome.status);
    CHECK(read.message == outcome.message);
    CHECK(read.value == outcome.value);
    CHECK(read.point == outcome.point);
    CHECK(read.last_point == outcome.last_point);
    CHECK(read.start == outcome.start);
    CHECK(read.counts[Spent::evaluations] == outcome.counts[Spent::evaluations]);
    CHECK(read.iterations == outcome.iterations);
    CHECK(read.seconds == outcome.seconds);
    CHECK(read.gap == outcome.gap);
    CHECK(read.distance == outcome.distance);
    CHECK(std::isnan(read.gradient_norm));
    CHECK(found.curvature->kind == PointKind::minimum);
    CHECK(found.curvature->eigenvalues == diagnosis.curvature->eigenvalues);
    CHECK(found.hints == diagnosis.hints);
  }

  TEST_CASE("the object has the documented keys") {
    const Problem problem = Problem::from_formula("x^2");
    const Outcome outcome = run(problem, method("nelder-mead"));
    const std::string json = outcome_to_json(outcome, diagnose(problem, outcome));
    for (const char* key :
         {"problem",    "dimension",     "sense",     "method",   "settings", "seed",       "start",
          "status",     "converged",     "message",   "value",    "point",    "last_value", "last_point",
          "iterations", "evaluations",   "gradients", "hessians", "seconds",  "gap",        "distance",
          "violation",  "gradient_norm", "curvature", "order",    "hints"}) {
      CHECK(json.find(fmt::format("\"{}\":", key)) != std::string::npos);
    }
    CHECK(json.find("\"gap\":null") != std::string::npos);
  }

  TEST_CASE("a broken outcome is refused") {
    CHECK_THROWS_WITH_AS((void)outcome_from_json("{"), doctest::Contains("not valid JSON"), InputError);
    CHECK_THROWS_WITH_AS((void)outcome_from_json("{}"), doctest::Contains("not complete"), InputError);
  }
}

TEST_SUITE("writing files") {
  TEST_CASE("a file is written whole, replaces the old one and leaves nothing beside it") {
    const TemporaryFolder folder;
    write_file(folder / "a.txt", "old");
    write_file(folder / "a.txt", std::string(100'000, 'n'));
    CHECK(read_file(folder / "a.txt") == std::string(100'000, 'n'));
    CHECK(std::distance(std::filesystem::directory_iterator(folder.path()), {}) == 1);
  }

  TEST_CASE("what cannot be written or read says why, and keeps the old file") {
    const TemporaryFolder folder;
    CHECK_THROWS_WITH_AS(write_file(folder / "none/a.txt", "x"), doctest::Contains("No such file or directory"),
                         FileError);
    std::filesystem::create_directory(folder / "taken");
    CHECK_THROWS_AS(write_file(folder / "taken", "x"), FileError);
    CHECK(std::distance(std::filesystem::directory_iterator(folder.path()), {}) == 1);
    CHECK_THROWS_WITH_AS((void)read_file(folder / "none.txt"), doctest::Contains("cannot read"), FileError);
    CHECK_THROWS_WITH_AS((void)read_file(folder / "taken"), doctest::Contains("it is a folder"), FileError);
  }
}
