#include "tanzen/report/report.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/figure/page.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/report/campaign_report.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

using namespace tanzen;
using testing::contains;
using testing::TemporaryFolder;

namespace {

/// Two methods on two problems, one of them with a name that would like to be more.
Results small_campaign(std::int64_t repeats, const std::string& name = "bowl") {
  PlanDefinition plan{.title = "Which way home?", .repeats = repeats, .stop = {.evaluations = 400}};
  const std::vector<Problem> problems{Problem::from_formula("(x - 1)^2 + 3*y^2")
                                          .named(name)
                                          .region({-3, -3}, {3, 3})
                                          .known_minimum(Coordinates{1, 0}, 0),
                                      testbed::problem("rosenbrock")};
  const Campaign campaign(plan, problems, {method("bfgs"), method("nelder-mead")});
  Results results(results_head(campaign));
  for (std::size_t k = 0; k < campaign.size(); ++k) results.add(campaign.perform(campaign.key(k)), true);
  results.finish();
  return results;
}

Report small_report(std::int64_t repeats = 5, const std::string& name = "bowl") {
  return campaign_report(small_campaign(repeats, name),
                         {.by = "", .plan = "seed = 1\n", .command = "tanzen report plan.results.sqlite"});
}

} // namespace

TEST_SUITE("reports") {
  TEST_CASE("a report answers in the order in which a reader asks") {
    const Report report = small_report();
    std::vector<std::string> titles;
    for (const ReportSection& section : report.sections) titles.push_back(section.title);
    CHECK(titles == std::vector<std::string>{"What was asked, and how it was run", "What the data support",
                                             "The tables", "The figures", "Problem by problem", "What failed, and why",
                                             "How to repeat it"});
    CHECK(report.title == "Which way home?");
    CHECK(report.choice.methods == std::vector<std::string>{"bfgs", "nelder-mead"});
    REQUIRE(report.choice.groups.size() == 1);
    CHECK(report.choice.groups[0].problems.size() == 2);
    CHECK(report.choice.runs.size() == 12); // best, middle and worst of each method on each problem
    for (const ReportRun& run : report.choice.runs) {
      CHECK(run.cost.size() == run.gap.size());
      CHECK(std::is_sorted(run.cost.begin(), run.cost.end()));
    }
  }

  TEST_CASE("text, Markdown, LaTeX and the page say the same sentences") {
    const Report report = small_report();
    const auto& sentences = std::get<LineList>(report.sections[1].blocks.front()).lines;
    REQUIRE(!sentences.empty());
    for (const std::string& sentence : sentences) {
      CAPTURE(sentence);
      CHECK(contains(report_to_text(report), sentence));
      CHECK(contains(report_to_markdown(report), sentence));
      CHECK(contains(report_to_latex(report), sentence));
      CHECK(contains(report_to_page(report), escaped(sentence)));
    }
    CHECK(contains(report_to_text(report), "How to repeat it\n----------------\n"));
    CHECK(contains(report_to_markdown(report),
                   "## How to repeat it\n\nCommand:\n\n    tanzen report plan.results.sqlite\n"));
    CHECK(contains(report_to_latex(report), "\\subsection*{How to repeat it}"));
    CHECK(contains(report_to_page(report), "<h2>How to repeat it</h2>"));
  }

  TEST_CASE("no name of a problem is markup in any form") {
    const Report report = small_report(2, "<i>bowl</i>_50%|#");
    CHECK(!contains(report_to_page(report), "<i>bowl"));
    CHECK(contains(report_to_page(report), "&lt;i&gt;bowl&lt;/i&gt;_50%|#"));
    CHECK(contains(report_to_latex(report), "<i>bowl</i>\\_50\\%|\\#"));
    CHECK(contains(report_to_markdown(report), "\\<i\\>bowl\\</i\\>\\_50%\\|\\#"));
    Report sly{.title = "x", .sections = {{"s", {Verbatim{"plan", "a\n\\end{verbatim}\\input{y}"}}}}};
    CHECK(!contains(report_to_latex(sly), "\n\\end{verbatim}\\input"));
  }

  TEST_CASE("a page holds what its figures need, not the runs") {
    const std::size_t few = report_to_page(small_report(5)).size(), many = report_to_page(small_report(40)).size();
    CHECK(many - few < 60'000); // 140 runs more: their final gaps
  }

  TEST_CASE("a report is written by its name's ending, whole or not at all") {
    const TemporaryFolder folder;
    const Report report = small_report(2);
    for (const char* name : {"a.html", "a.md", "a.tex", "a.txt"}) {
      write_report(report, folder / name);
      CHECK(contains(read_file(folder / name), "Which way home?"));
    }
    CHECK_THROWS_WITH_AS(write_report(report, folder / "a.docx"),
                         doctest::Contains("written as .html, .md, .tex or .txt, not 'a.docx'"), InputError);
    CHECK(std::distance(std::filesystem::directory_iterator(folder.path()), {}) == 4);
  }
}
