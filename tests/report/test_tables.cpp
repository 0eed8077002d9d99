#include "support/text.hpp"
#include "tanzen/search/trace.hpp"

#include "tanzen/report/iteration_table.hpp"
#include "tanzen/report/table.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <sstream>

using namespace tanzen;
using namespace tanzen;

namespace {

Table two_rows() {
  Table table;
  table.column("method", Table::Align::left);
  table.column("cost");
  table.row({"simplex", "90"});
  table.row({"Öfen", "1200"});
  return table;
}

/// A trace of iterations 0, 1, 2, ... up to `last`, with one column of the method's own that is sometimes unknown.
Trace counted(int last, bool with_gradient) {
  const double unknown = std::nan("");
  std::vector<double> cells;
  for (int k = 0; k <= last; ++k) {
    std::vector<double> row(Trace::fixed_columns, unknown);
    row[Trace::iteration] = k;
    row[Trace::evaluations] = 2 * k + 1;
    row[Trace::value] = 1.0 / (k + 1);
    if (with_gradient) row[Trace::gradient_norm] = 0.5;
    cells.insert(cells.end(), row.begin(), row.end());
    cells.insert(cells.end(), {k % 2 == 0 ? 0.25 : unknown, 3.0 + k, -4.0});
  }
  return Trace({"step"}, {"x", "y"}, true, std::move(cells));
}

std::vector<int> iterations_shown(const Trace& trace, std::optional<std::int64_t> every) {
  std::vector<int> shown;
  const auto lines = testing::lines_of(iteration_table(trace, every, false));
  for (std::size_t k = 1; k < lines.size(); ++k) shown.push_back(std::stoi(lines[k]));
  return shown;
}

} // namespace

TEST_SUITE("tables") {
  TEST_CASE("words stand to the left, numbers to the right, by their characters and not their bytes") {
    CHECK(two_rows().text() == "  method   cost\n"
                               "  simplex    90\n"
                               "  Öfen     1200\n");
  }

  TEST_CASE("in Markdown and LaTeX they are tables, whatever a cell holds") {
    CHECK(two_rows().markdown() == "| method | cost |\n| --- | ---: |\n| simplex | 90 |\n| Öfen | 1200 |\n");
    Table odd;
    odd.column("a|b", Table::Align::left);
    odd.row({R"(50% of {x_1} & y^2 \ #$~)"});
    CHECK(odd.markdown() == "| a\\|b |\n| --- |\n| 50% of {x\\_1} \\& y^2 \\\\ \\#$~ |\n");
    CHECK(odd.latex() == R"(\begin{tabular}{l}
  \toprule
  a|b \\
  \midrule
  50\% of \{x\_1\} \& y\textasciicircum{}2 \textbackslash{} \#\$\textasciitilde{} \\
  \bottomrule
\end{tabular}
)");
  }

  TEST_CASE("of a long run some twenty iterations are shown, evenly, with the first and the last") {
    CHECK(iterations_shown(counted(3, false), {}) == std::vector{0, 1, 2, 3});
    CHECK(iterations_shown(counted(20, false), {}).size() == 21);
    const auto some = iterations_shown(counted(47, false), {});
    CHECK(some == std::vector{0, 5, 10, 15, 20, 25, 30, 35, 40, 45, 47});
    for (const int last : {99, 100, 999, 1234, 54321 % 5000}) {
      CAPTURE(last);
      const auto shown = iterations_shown(counted(last, false), {});
      CHECK(shown.front() == 0);
      CHECK(shown.back() == last);
      CHECK(shown.size() >= 9);
      CHECK(shown.size() <= 22);
    }
  }

  TEST_CASE("a stride that was asked for is kept") {
    CHECK(iterations_shown(counted(7, false), 3) == std::vector{0, 3, 6, 7});
    CHECK(iterations_shown(counted(7, false), 1).size() == 8);
    CHECK(iterations_shown(counted(7, false), 100) == std::vector{0, 7});
  }

  TEST_CASE("columns of which nothing is known are left out, single unknown cells are dashes") {
    const auto lines = testing::lines_of(iteration_table(counted(2, false), {}, false));
    CHECK(lines[0] == "  iteration  evaluations        value  step");
    CHECK(lines[1] == "          0            1            1  0.25");
    CHECK(lines[2] == "          1            3          0.5     -");
    CHECK(testing::lines_of(iteration_table(counted(2, true), {}, false))[0] ==
          "  iteration  evaluations        value  gradient  step");
    CHECK(testing::lines_of(iteration_table(counted(2, false), {}, true))[3] ==
          "          2            5  0.333333333  0.25  5  -4");
  }
}
