#include "commands.hpp"
#include "demo_campaign.hpp"
#include "tanzen/report/comparison_report.hpp"
#include "tanzen/report/iteration_table.hpp"
#include "tanzen/report/minima_table.hpp"
#include "tanzen/report/table.hpp"

#include "tanzen/analysis/diagnosis.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/ends_figure.hpp"
#include "tanzen/figure/render.hpp"
#include "tanzen/figure/solve_figure.hpp"
#include "tanzen/files/trace_file.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <array>
#include <cerrno>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <memory>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

extern char** environ;

namespace tanzen::cli {
namespace {

/// The guided tour: five small acts, four on the pottery studio's problems and a campaign over test functions.
class Demo {
 public:
  Demo(const Context& context, std::filesystem::path folder) : context_(context), folder_(std::move(folder)) {
    std::error_code error;
    std::filesystem::create_directories(folder_, error);
    if (error) throw FileError(fmt::format("cannot make the folder {}: {}", folder_.string(), error.message()));
  }

  void play() {
    one_variable();
    the_step();
    three_methods();
    all_minima();
    demo_campaign(context_, folder_);
    what_next();
  }

  [[nodiscard]] std::filesystem::path report() const { return folder_ / "5-families.report.html"; }

 private:
  void heading(std::string_view text) const {
    context_.print("\n{}\n{}\n\n", text, std::string(character_count(text), '-'));
  }

  Outcome run_and_draw(const Problem& problem, const Method& method, RunOptions options,
                       const std::string& name) const {
    options.trace.points = true;
    Outcome outcome = run(problem, method, options);
    write_trace(folder_ / (name + ".csv"), outcome);
    render(solve_figure(problem, outcome), folder_ / (name + ".png"));
    return outcome;
  }

  void one_variable() const {
    heading("1. One variable: how long should the kiln hold its top temperature?");
    const Problem firing = Problem::from_formula("1.8*soak + 40*exp(-0.9*soak)").named("firing").region(0, 8);
    context_.print("  An hour costs 1.8 in gas; too short a soak spoils pots: minimize {}\n\n", firing.formula());
    const Outcome outcome =
        run_and_draw(firing, method("gradient-descent", {{"rule", "exact"}}), {.start = Coordinates{1}}, "1-firing");
    context_.print("{}\n{}{}", iteration_table(outcome.trace, std::nullopt, true, context_.width), to_text(outcome),
                   to_text(diagnose(firing, outcome)));
  }

  void the_step() const {
    heading("2. The step: how far to turn the burner at once?");
    const Problem burner = Problem::from_formula("2*(draft - 1)^2 + draft*gas + 0.7*(gas + 2)^2").named("burner");
    context_.print("  Steepest descent on {} from (6, -9), with five steps: the values\n\n", burner.formula());
    const double steps[] = {0.5, 0.46, 0.25, 0.05, 0.01};
    std::vector<Outcome> outcomes;
    Table table;
    table.column("iteration");
    for (const double step : steps) {
      RunOptions options{.start = Coordinates{6, -9}, .stop = {.iterations = 40, .gradient_tolerance = std::nullopt}};
      outcomes.push_back(
          run_and_draw(burner, method("gradient-descent", {{"step", step}}), options, "2-step-" + number_text(step)));
      table.column("step " + number_text(step));
    }
    for (const std::size_t row : std::initializer_list<std::size_t>{0, 1, 2, 3, 5, 10, 20, 40}) {
      std::vector<std::string> cells{std::to_string(row)};
      for (const Outcome& outcome : outcomes) cells.push_back(short_number(outcome.trace.at(row, Trace::value), 8));
      table.row(std::move(cells));
    }
    context_.print("{}\n", table.text(context_.width));
    const char* verdicts[] = {"leaves", "jumps from side to side, slowly home", "goes home", "goes home, slower",
                              "crawls"};
    for (std::size_t k = 0; k < outcomes.size(); ++k) {
      context_.print("{}", block_line(fmt::format("step {}", number_text(steps[k])), verdicts[k]));
      for (const std::string& hint : diagnose(burner, outcomes[k]).hints) context_.print("{}", block_line("", hint));
    }
  }

  void three_methods() const {
    heading("3. Three methods on a curved valley and on a field of pits");
    // The flame stays clean along a curved valley; a crackle glaze is rough over its two oxides.
    const std::vector<Problem> problems{Problem::from_formula("60*(gas - 0.5*draft^2)^2 + (draft - 2)^2")
                                            .named("flame")
                                            .region({-3, -1}, {3, 5})
                                            .known_minimum(Coordinates{2, 2}, 0),
                                        Problem::from_formula("0.3*(tin - 3)^2 + 0.4*(zinc - 2)^2 + 4 - "
                                                              "2*cos(5*(tin - 3)) - 2*cos(4*(zinc - 2))")
                                            .named("crackle")
                                            .region({0, 0}, {6, 5})
                                            .known_minimum(Coordinates{3, 2}, 0)};
    const std::vector<Method> methods{method("gradient-descent", {{"rule", "backtracking"}}), method("nelder-mead"),
                                      method("differential-evolution")};
    const StopRules stop{.evaluations = 40'000};
    const Results results = run_campaign(Campaign({.repeats = 11, .stop = stop}, problems, methods));
    const ComparisonParts parts = comparison_parts(results, std::nullopt, "", "");
    for (const Problem& problem : problems) context_.print("  {} is {}\n", problem.name(), problem.formula());
    context_.print("\n");
    for (const ProblemComparison& each : parts.problems) {
      const TitledTable table = problem_table(each);
      context_.print("  {}\n\n{}\n", table.title, table.table.text(context_.width));
    }
    context_.print("{}", comparison_notes(results, parts));
    for (const Problem& problem : problems) {
      for (const Method& each : methods) {
        (void)run_and_draw(problem, each, {.seed = 3, .start = Coordinates{0.5, 4}, .stop = stop},
                           "3-" + problem.name() + "-" + each.name());
      }
    }
    context_.print("\n  No method is best on both: the simplex search follows the valley at a twentieth of the cost,\n"
                   "  only the population finds the deepest of the pits every time.\n");
  }

  void all_minima() const {
    heading("4. All minima: which recipes of the glaze are worth a trial?");
    const Problem glaze = Problem::from_formula("(flux - 3)^2/4 + (clay - 2)^2/3 + sin(2.5*flux)*cos(2*clay)")
                              .named("glaze")
                              .region({0, 0}, {6, 4});
    context_.print("  Local searches from clustered random points on {}\n\n", glaze.formula());
    const Outcome outcome = run(glaze, method("single-linkage"));
    context_.print("{}\n{}", to_text(outcome), minima_table(glaze, outcome, context_.width));
    render(minima_figure(glaze, outcome), folder_ / "4-glaze.png");
  }

  void what_next() const {
    heading("What to try next");
    context_.print("  Pictures and traces of every run above are in {}/\n\n", folder_.string());
    for (const char* command :
         {"tanzen problems", "tanzen methods gradient-descent",
          "tanzen solve himmelblau --with nelder-mead --from 0,0 --figure path.png",
          "tanzen solve --formula \"x^2 + 3*y^2 - x*y\" --with gradient-descent:step=0.3 --from 2.5,-1"}) {
      context_.print("  {}\n", command);
    }
    context_.print("  tanzen compare {} --by trait\n", (folder_ / "5-families.results.sqlite").string());
    context_.print("\n{}", block_line("report", report().string()));
  }

  const Context& context_;
  std::filesystem::path folder_;
};

/// Hands a page to the desktop's opener, or to the program that $BROWSER names; says so where there is none.
void open_in_browser(const Context& context, const std::filesystem::path& page) {
  const char* chosen = std::getenv("BROWSER");
  std::string program = chosen != nullptr && *chosen != '\0' ? chosen : "xdg-open";
  std::string file = std::filesystem::absolute(page).string();
  std::array<char*, 3> arguments = {program.data(), file.data(), nullptr};
  pid_t child = 0;
  if (posix_spawnp(&child, program.c_str(), nullptr, nullptr, arguments.data(), environ) != 0) {
    context.print("{}", block_line("browser", fmt::format("there is no '{}' here; open the report yourself", program)));
    return;
  }
  int state = 0;
  while (waitpid(child, &state, 0) < 0 && errno == EINTR) {
  }
}

} // namespace

void add_demo(const Command& command, Context& context) {
  auto folder = std::make_shared<std::string>("tanzen-demo");
  auto open = std::make_shared<bool>(false);
  command.flag("--open", *open, "show the report in the browser of this machine at the end");
  command.takes("--folder", *folder, "FOLDER", "where traces and pictures go (tanzen-demo)");
  command.example("tanzen demo --folder tour");
  command.does([folder, open, &context] {
    Demo demo(context, *folder);
    demo.play();
    if (*open) open_in_browser(context, demo.report());
  });
}

} // namespace tanzen::cli
