#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>
#include <filesystem>

using testing::contains;
using testing::ProgramResult;
using testing::run_program;
using testing::tanzen_line;
using testing::TemporaryFolder;

namespace {

constexpr const char* plan = "title = \"Kilns and bowls\"\nrepeats = 3\nproblems = [\"rosenbrock\", \"sphere:dim=3\"]\n"
                             "[methods]\nbfgs = {}\nsimplex = { use = \"nelder-mead\" }\n[stop]\nevaluations = 300\n";

} // namespace

TEST_SUITE("reports of the program") {
  TEST_CASE("a results file and its plan give the same report") {
    const TemporaryFolder folder;
    tanzen::write_file(folder / "plan.toml", plan);
    CHECK(tanzen_line("tanzen campaign plan.toml", folder.path()).code == 0);
    const ProgramResult of_results = tanzen_line("tanzen report plan.results.sqlite --output a.md", folder.path());
    const ProgramResult of_plan = tanzen_line("tanzen report plan.toml --output b.md", folder.path());
    CHECK(of_results.code == 0);
    CHECK(contains(of_results.out, "report        a.md"));
    const std::string a = tanzen::read_file(folder / "a.md"), b = tanzen::read_file(folder / "b.md");
    CHECK(contains(a, "# Kilns and bowls"));
    CHECK(contains(a, "12 of 12 runs are done"));
    CHECK(contains(a, "Each run was allowed at most 300 evaluations."));
    CHECK(contains(a, "    tanzen report plan.results.sqlite --output a.md\n"));
    CHECK(contains(a, "title = \"Kilns and bowls\""));
    CHECK(a.substr(0, a.find("How to repeat it")) == b.substr(0, b.find("How to repeat it")));
    const auto checksum = [](const std::string& text) {
      const std::size_t at = text.find("Checksum of all runs: ");
      REQUIRE(at != std::string::npos);
      return text.substr(at, 30);
    };
    CHECK(checksum(a) == checksum(b));
    CHECK(tanzen_line("tanzen report plan.results.sqlite", folder.path()).code == 0);
    CHECK(contains(tanzen::read_file(folder / "plan.report.html"), "<title>Kilns and bowls</title>"));
  }

  TEST_CASE("a comparison of the command line is told on a page, with the landscapes of its problems") {
    const TemporaryFolder folder;
    const ProgramResult result = tanzen_line(
        "tanzen compare rosenbrock ackley --with bfgs --with nelder-mead --repeats 3 --evaluations 300 --report a.html",
        folder.path());
    CHECK(result.code == 0);
    CHECK(contains(result.out, "report        a.html"));
    const std::string page = tanzen::read_file(folder / "a.html");
    CHECK(contains(page, "data-folded=\"rosenbrock\""));
    CHECK(contains(page, "data-folded=\"ackley\""));
    CHECK(contains(page, "tanzen compare rosenbrock ackley --with bfgs"));
  }

  TEST_CASE("one run, a sweep, a fit and stationary points are told on a page too") {
    const TemporaryFolder folder;
    const std::filesystem::path table = std::filesystem::path(TANZEN_SOURCE) / "examples/cooling.csv";
    const std::pair<std::string, const char*> lines[] = {
        {"tanzen solve himmelblau --with bfgs --from 0,0 --report run.html", "iteration"},
        {"tanzen sweep sphere:dim=2 --with gradient-descent --vary step=0.1,0.4 --report run.html", "step"},
        {fmt::format("tanzen fit {} --model \"celsius = room + (peak - room)*exp(-rate*minutes)\" --from "
                     "room=20,peak=1000,rate=0.01 --report run.html",
                     table.string()),
         "degrees of freedom"},
        {"tanzen stationary himmelblau --report run.html", "saddle"}};
    const std::filesystem::path points = std::filesystem::path(TANZEN_SOURCE) / "examples/glaze-points.csv";
    CHECK(tanzen_line(fmt::format("tanzen front {} --objectives gas,breakage --reference 60,70 --report front.md",
                                  points.string()),
                      folder.path())
              .code == 0);
    CHECK(contains(tanzen::read_file(folder / "front.md"), "17 of 40 are dominated by no other"));
    for (const auto& [line, says] : lines) {
      CAPTURE(line);
      const ProgramResult result = tanzen_line(line, folder.path());
      CHECK(result.code <= 1);
      CHECK(contains(result.out, "report        run.html"));
      const std::string page = tanzen::read_file(folder / "run.html");
      CHECK(contains(page, says));
      CHECK(contains(page, "data-figure=\"0\""));
      CHECK(contains(page, "<pre tabindex=\"0\">tanzen "));
    }
  }

  TEST_CASE("without the library that pages hold the program says what to do, and leaves nothing behind") {
    const TemporaryFolder folder;
    std::filesystem::copy_file(TANZEN_PROGRAM, folder / "tanzen");
    const ProgramResult result = run_program(
        (folder / "tanzen").string(), {"figure", "landscape", "himmelblau", "--output", "a.html"}, folder.path());
    CHECK(result.code == 3);
    CHECK(contains(result.err, "scripts/fetch_packages.sh fetches it"));
    CHECK(contains(result.err, "TANZEN_SHARE names another folder"));
    CHECK(std::distance(std::filesystem::directory_iterator(folder.path()), {}) == 1);
  }

  TEST_CASE("a film's options and a report's name are checked before anything runs") {
    for (const auto& [line, says] :
         {std::pair{"tanzen solve rosenbrock --with bfgs --report a.docx", ".html, .md, .tex or .txt"},
          std::pair{"tanzen solve rosenbrock --with bfgs --figure a.gif --frames 1", "at least 2"},
          std::pair{"tanzen report none.sqlite", "none.sqlite"}}) {
      const ProgramResult result = tanzen_line(line);
      CHECK(result.code >= 2);
      CHECK(contains(result.err, says));
    }
  }

  TEST_CASE("a coder that is not there, or fails, leaves no film and no pictures") {
    const TemporaryFolder folder, tools;
    const std::vector<std::string> words{"figure",   "paths", "rosenbrock", "--with", "bfgs",
                                         "--frames", "3",     "--output",   "a.mp4"};
    const std::string path = fmt::format("PATH={}:/usr/bin:/bin", tools.path().string());
    tanzen::write_file(tools / "ffmpeg", "#!/bin/sh\necho no such coder >&2\nexit 4\n");
    std::filesystem::permissions(tools / "ffmpeg", std::filesystem::perms::owner_all);
    std::vector<std::string> all{path, TANZEN_PROGRAM};
    all.insert(all.end(), words.begin(), words.end());
    const ProgramResult failed = run_program("/usr/bin/env", all, folder.path());
    CHECK(failed.code == 3);
    CHECK(contains(failed.err, "ffmpeg ended with code 4: no such coder"));
    CHECK(std::filesystem::is_empty(folder.path()));
    // It gets all pictures one after the other, and writes to its standard output.
    tanzen::write_file(tools / "coder", "#!/bin/sh\necho pictures: $(grep -a -o IEND | wc -l)\n");
    std::filesystem::permissions(tools / "coder", std::filesystem::perms::owner_all);
    std::filesystem::rename(tools / "coder", tools / "ffmpeg");
    const ProgramResult made = run_program("/usr/bin/env", all, folder.path());
    CHECK(made.code == 0);
    CHECK(tanzen::read_file(folder / "a.mp4") == "pictures: 3\n");
    CHECK(std::distance(std::filesystem::directory_iterator(folder.path()), {}) == 1);
  }
}
