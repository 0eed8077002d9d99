#include "arguments.hpp"
#include "commands.hpp"
#include "interrupt.hpp"
#include "pictures.hpp"
#include "tanzen/report/table.hpp"

#include "tanzen/analysis/convergence.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/sweep_figure.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/study/sweep.hpp"

#include <cmath>
#include <memory>
#include <nlohmann/json.hpp>

namespace tanzen::cli {
namespace {

using Json = nlohmann::ordered_json;

struct SweepOptions {
  std::string name;
  ProblemArguments problem;
  std::string method;
  std::vector<std::string> varied;
  std::string from;
  std::uint64_t seed = 1;
  StopArguments stop;
  DerivativeMode derivative = DerivativeMode::automatic;
  PictureArguments pictures;
  bool as_json = false;
};

/// The starts that `start=20` or `start=grid:300x200` asks for.
struct Starts {
  Matrix points;
  Index columns = 0; ///< of a grid; 0 for random ones

  Starts(std::string_view text, const Problem& problem, std::uint64_t seed) {
    constexpr double most = 4e6;
    if (!text.starts_with("grid:")) {
      const auto count = read_number(text);
      if (!count || *count < 1 || *count > most || *count != std::round(*count))
        throw InputError(fmt::format("--vary start: '{}' is no count of starts; write start=20 or start=grid:300x200",
                                     clipped(text, 40)));
      points = latin_hypercube_points(problem.sampling_box(), static_cast<Index>(*count),
                                      RandomStream(seed, {"sweep", problem.name()}));
      return;
    }
    const std::size_t cross = text.find('x');
    const bool has_cross = cross != std::string_view::npos;
    const double across = has_cross ? read_number(text.substr(5, cross - 5)).value_or(0) : 0;
    const double along = has_cross ? read_number(text.substr(cross + 1)).value_or(0) : 0;
    const auto is_count = [&](double n) { return n >= 2 && n <= most && n == std::round(n); };
    if (!is_count(across) || !is_count(along) || across * along > most)
      throw InputError(fmt::format("--vary start: '{}' is no grid; write grid:300x200", clipped(text, 40)));
    if (problem.dimension() != 2)
      throw InputError(
          fmt::format("a grid of starts needs two variables, and {} has {}", problem.name(), problem.dimension()));
    columns = static_cast<Index>(across);
    const auto rows = static_cast<Index>(along);
    const Box box = problem.sampling_box();
    const Vector x = Vector::LinSpaced(columns, box.lower[0], box.upper[0]);
    const Vector y = Vector::LinSpaced(rows, box.lower[1], box.upper[1]);
    points.resize(2, columns * rows);
    for (Index i = 0; i < rows; ++i) {
      points.row(0).segment(i * columns, columns) = x.transpose();
      points.row(1).segment(i * columns, columns).setConstant(y[i]);
    }
  }
};

std::string gap_text(double gap) {
  return std::isfinite(gap) ? short_number(gap, 3) : "-";
}

class Sweeper {
 public:
  Sweeper(const Context& context, const SweepOptions& options)
      : context_(context), options_(options), problem_(options.problem.problem(context.additions, options.name)),
        method_(context.additions.methods.parse(options.method)) {
    check_able(method_, problem_);
    options.pictures.check();
    run_.seed = options.seed;
    run_.stop = options.stop.rules();
    run_.derivative = options.derivative;
    run_.asked_to_stop = InterruptGuard::is_asked;
    if (!options.from.empty()) run_.start = parse_point(options.from, problem_.variable_names(), "--from");
  }

  /// The exit code: a sweep has nothing to converge, but may be interrupted.
  int sweep() {
    const InterruptGuard guard;
    if (options_.varied.empty() || options_.varied.size() > 2)
      throw InputError("sweep varies one setting, two, or the start: --vary step=1.02,0.97,0.3 or --vary start=20");
    const auto first = options_.varied.front();
    if (options_.varied.size() == 2)
      vary_two(VariedSetting::parse(first), VariedSetting::parse(options_.varied.back()));
    else if (first.starts_with("start="))
      vary_start(Starts(std::string_view(first).substr(6), problem_, options_.seed));
    else
      vary_one(VariedSetting::parse(first));
    return InterruptGuard::is_asked() ? 130 : 0;
  }

 private:
  void draw(const std::function<Figure()>& make) const {
    if (!options_.pictures.asked_for()) return;
    if (!options_.as_json) context_.print("\n");
    options_.pictures.write(context_, fmt::format("{} on {}", method_.label(), problem_.name()), make,
                            options_.as_json);
  }

  void header(std::string_view what) const {
    context_.print("\n  {}, {}    {}, {}\n\n", problem_.name(), counted(problem_.dimension(), "variable"),
                   method_.label(), what);
  }

  void vary_one(const VariedSetting& varied) {
    run_.trace.points = problem_.dimension() <= 2;
    const auto outcomes = sweep_setting(problem_, method_, varied, run_);
    Table table;
    for (const char* heading :
         {varied.name.c_str(), "status", "path", "iterations", "evaluations", "last value", "gap"})
      table.column(heading);
    for (std::size_t k = 0; k < outcomes.size(); ++k) {
      const Outcome& outcome = outcomes[k];
      if (options_.as_json) {
        context_.print("{}\n", Json{{varied.name, varied.values[k]},
                                    {"status", status_word(outcome.status)},
                                    {"converged", outcome.converged()},
                                    {"iterations", outcome.iterations},
                                    {"evaluations", outcome.counts[Spent::evaluations]},
                                    {"last_value", number_or_null(outcome.last_value)},
                                    {"gap", outcome.gap ? number_or_null(*outcome.gap) : Json(nullptr)}}
                                   .dump());
      }
      const PathCharacter path = path_character(outcome.trace, outcome.converged(), sign_of(problem_.value_sense()));
      table.row({varied.values[k], std::string(status_word(outcome.status)), std::string(path_word(path)),
                 std::to_string(outcome.iterations), std::to_string(outcome.counts[Spent::evaluations]),
                 short_number(outcome.last_value, 8), outcome.gap ? gap_text(*outcome.gap) : "-"});
    }
    if (!options_.as_json) {
      header(fmt::format("{} varied, from {}", varied.name, point_text(outcomes.front().start)));
      context_.print("{}", table.text(context_.width));
    }
    draw([&] { return sweep_figure(problem_, varied, outcomes); });
  }

  void vary_two(const VariedSetting& first, const VariedSetting& second) {
    constexpr std::size_t most = 1'000'000;
    if (first.name == second.name)
      throw InputError(fmt::format("--vary gives {} twice; a map needs two different settings", first.name));
    if (first.values.size() * second.values.size() > most)
      throw InputError(fmt::format("{} by {} values are too many; a map has at most {} runs", first.values.size(),
                                   second.values.size(), most));
    if (first.name == "start" || second.name == "start")
      throw InputError("the start is varied alone: leave the other --vary away");
    const auto cells = sweep_settings(problem_, method_, first, second, run_);
    const auto is_worse = [&](const SweepCell& a, const SweepCell& b) {
      const double x = sign_of(problem_.value_sense()) * a.value, y = sign_of(problem_.value_sense()) * b.value;
      return std::isnan(x) || x > y;
    };
    const auto best = std::ranges::min_element(cells, [&](const auto& a, const auto& b) { return is_worse(b, a); });
    const auto place = static_cast<std::size_t>(best - cells.begin());
    const auto converged = std::ranges::count_if(cells, [](const auto& cell) { return cell.converged; });
    const auto diverged =
        std::ranges::count_if(cells, [](const auto& cell) { return cell.status == Status::diverged; });
    const std::string &x = first.values[place % first.values.size()], &y = second.values[place / first.values.size()];
    if (options_.as_json) {
      for (std::size_t k = 0; k < cells.size(); ++k) {
        context_.print("{}\n", Json{{first.name, first.values[k % first.values.size()]},
                                    {second.name, second.values[k / first.values.size()]},
                                    {"status", status_word(cells[k].status)},
                                    {"iterations", cells[k].iterations},
                                    {"evaluations", cells[k].evaluations},
                                    {"last_value", number_or_null(cells[k].value)},
                                    {"gap", number_or_null(cells[k].gap)}}
                                   .dump());
      }
    } else {
      header(fmt::format("{} and {} varied", first.name, second.name));
      context_.print("{}", block_line("runs", fmt::format("{}, of them {} converged and {} diverged", cells.size(),
                                                          converged, diverged)));
      context_.print("{}", block_line("best", fmt::format("{}={}, {}={}: last value {}", first.name, x, second.name, y,
                                                          short_number(best->value, 8))));
    }
    draw([&] { return sweep_map(problem_, method_, first, second, cells); });
  }

  void vary_start(const Starts& starts) {
    if (options_.pictures.asked_for() && starts.columns == 0)
      throw InputError("a figure of starts needs a grid: --vary start=grid:300x200");
    if (!options_.from.empty()) throw InputError("--from gives one start, and --vary start many: leave one away");
    const auto cells = sweep_starts(problem_, method_, starts.points, run_);
    std::vector<int> group_of;
    const auto groups = group_ends(problem_, cells, group_of);
    std::vector<double> evaluations(groups.size(), 0);
    std::size_t lost = 0;
    for (std::size_t k = 0; k < cells.size(); ++k) {
      if (group_of[k] < 0)
        ++lost;
      else
        evaluations[static_cast<std::size_t>(group_of[k])] += static_cast<double>(cells[k].evaluations);
    }
    Table table;
    for (const char* heading : {"end", "value", "starts", "share", "mean evaluations"}) table.column(heading);
    constexpr std::size_t most_rows = 30;
    for (std::size_t k = 0; k < groups.size(); ++k) {
      const double share = static_cast<double>(groups[k].members) / static_cast<double>(cells.size());
      const double mean = evaluations[k] / static_cast<double>(groups[k].members);
      if (options_.as_json) {
        context_.print("{}\n", Json{{"point", std::vector<double>(groups[k].point.begin(), groups[k].point.end())},
                                    {"value", groups[k].value},
                                    {"starts", groups[k].members},
                                    {"share", share},
                                    {"mean_evaluations", mean}}
                                   .dump());
      }
      if (k < most_rows) {
        table.row({point_text(groups[k].point, 6, 4), short_number(groups[k].value, 8),
                   std::to_string(groups[k].members), fmt::format("{:.1f} %", 100 * share),
                   fmt::format("{:.1f}", mean)});
      }
    }
    if (!options_.as_json) {
      header(fmt::format("{} starts", cells.size()));
      context_.print("{}", table.text(context_.width));
      if (groups.size() > most_rows) context_.print("  and {} more ends\n", groups.size() - most_rows);
      if (lost > 0)
        context_.print("\n{}", block_line("lost", fmt::format("{} of {} did not converge", lost, cells.size())));
    }
    draw([&] { return basin_map(problem_, method_, starts.points, starts.columns, cells); });
  }

  static Json number_or_null(double value) { return std::isfinite(value) ? Json(value) : Json(nullptr); }

  const Context& context_;
  const SweepOptions& options_;
  Problem problem_;
  Method method_;
  RunOptions run_;
};

} // namespace

void add_sweep(const Command& command, Context& context) {
  auto options = std::make_shared<SweepOptions>();
  command.takes("problem", options->name, "PROBLEM", "a problem, with options after a colon");
  options->problem.add_to(command);
  command.needs("--with", options->method, "METHOD", "the method, with settings after a colon");
  command.takes("--vary", options->varied, "WHAT",
                "step=1.02,0.97,0.3; step=1e-3..1e0:7; start=20; start=grid:300x200; two settings make a map");
  command.takes("--from", options->from, "POINT", "where to begin: 2.5,-1 or y=-1,x=2.5");
  add_seed(command, options->seed);
  options->stop.add_to(command);
  add_derivative(command, options->derivative);
  options->pictures.add_to(command, "the sweep");
  command.flag("--json", options->as_json, "one object a row for machines");
  command.example("tanzen sweep himmelblau --with newton --vary start=20");
  command.does([options, &context] { context.exit_code = Sweeper(context, *options).sweep(); });
}

} // namespace tanzen::cli
