#include "arguments.hpp"
#include "commands.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/report/table.hpp"
#include "tanzen/search/abilities.hpp"
#include "tanzen/search/outcome.hpp"
#include "tanzen/search/proof.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <algorithm>
#include <memory>

namespace tanzen::cli {
namespace {

struct MinimaOptions {
  std::string name;
  ProblemArguments problem;
  std::optional<double> seconds;
  bool all = false;
};

/// What is stated of a problem's minima beside what is proved of them.
struct MinimaCheck {
  std::optional<double> stated = {}; ///< the best value
  Outcome outcome = {};
  bool is_right = true;                    ///< the stated value, as far as there is one
  std::vector<Vector> not_minimizers = {}; ///< stated points that are none
  Index points = 0;                        ///< stated global minimizers

  [[nodiscard]] bool is_refuted() const { return !is_right || !not_minimizers.empty(); }
  [[nodiscard]] std::size_t boxes() const { return outcome.proof ? outcome.proof->boxes.size() : 0; }
};

/// Whether a point lies in a box, but for the digits that a stated one is written with.
bool is_in(const Proof::MinimizerBox& box, const Vector& point, const Vector& sizes) {
  const Vector reach = 1e-4 * point.cwiseAbs().cwiseMax(sizes);
  return (point.array() >= (box.lower - reach).array()).all() && (point.array() <= (box.upper + reach).array()).all();
}

MinimaCheck checked(const Problem& problem, const Method& prover, double seconds) {
  MinimaCheck check{.stated = problem.best_known(), .outcome = run(problem, prover, {.stop = {.seconds = seconds}})};
  const auto& known = problem.known_minima();
  check.points = std::ranges::count_if(known, &KnownMinimum::global);
  if (!check.outcome.proof) return check;
  const Proof& proof = *check.outcome.proof;
  if (check.stated) { // rounded to the digits that it is written with
    const double room = 1e-7 * std::max(1.0, std::abs(*check.stated));
    check.is_right = *check.stated >= proof.lower - room && *check.stated <= proof.upper + room;
  }
  const Vector sizes = problem.typical_sizes();
  for (const KnownMinimum& minimum : known) {
    const auto holds = [&](const Proof::MinimizerBox& box) { return is_in(box, minimum.point, sizes); };
    if (minimum.global && problem.sampling_box().contains(minimum.point) && std::ranges::none_of(proof.boxes, holds))
      check.not_minimizers.push_back(minimum.point);
  }
  return check;
}

std::string unproved_text(const MinimaCheck& check) {
  return fmt::format("{}, after {} s", check.outcome.message, short_number(check.outcome.seconds, 3));
}

/// 1 where what is stated is refuted, or nothing is proved.
int check_one(const Context& context, const MinimaOptions& options, const Method& prover) {
  const Problem problem = options.problem.problem(context.additions, options.name);
  check_able(prover, problem);
  const auto stated = problem.best_known();
  context.print("\n  {}\n", to_text(problem));
  context.print("{}",
                block_line("stated", stated ? fmt::format("best value {}", number_text(*stated)) : "no best value"));
  for (const KnownMinimum& minimum : problem.known_minima())
    context.print("{}", block_line("", fmt::format("{} at {}, where the value is {}",
                                                   minimum.global ? "global" : "local", point_text(minimum.point, 10),
                                                   short_number(problem.value(minimum.point), 12))));
  const MinimaCheck check = checked(problem, prover, options.seconds.value_or(30));
  if (!check.outcome.proof) {
    context.print("{}", block_line("undecided", unproved_text(check)));
    return 1;
  }
  context.print("{}", to_text(*check.outcome.proof));
  if (check.stated)
    context.print("{}", block_line(check.is_right ? "agrees" : "refuted",
                                   check.is_right ? "the stated value is that of the proof"
                                                  : "the stated value is not the best within the region"));
  for (const Vector& point : check.not_minimizers)
    context.print("{}", block_line("refuted", fmt::format("no global minimizer lies at {}", point_text(point, 8))));
  if (static_cast<Index>(check.boxes()) > check.points)
    context.print("{}",
                  block_line("besides", fmt::format("{} boxes hold all global minimizers; {} {} stated", check.boxes(),
                                                    check.points, check.points == 1 ? "is" : "are")));
  return check.is_refuted() ? 1 : 0;
}

/// Each function of the testbed in its usual dimension, a row each. 1 where something that is stated is refuted.
int check_all(const Context& context, const MinimaOptions& options, const Method& prover) {
  if (!options.name.empty()) throw InputError("--all is every function of the testbed: leave the problem away");
  Table table;
  table.column("function", Table::Align::left);
  table.column("variables");
  table.column("verdict", Table::Align::left);
  table.column("best value");
  table.column("stated points");
  table.column("boxes");
  int proved = 0, refuted = 0, looked_at = 0;
  for (const testbed::TestFunction& function : testbed::all()) {
    const Problem problem = testbed::problem(function.name, function.dimensions.usual);
    if (why_not(prover, problem)) continue;
    const MinimaCheck check = checked(problem, prover, options.seconds.value_or(30));
    ++looked_at;
    proved += check.outcome.proof.has_value();
    refuted += check.is_refuted();
    const std::string verdict = !check.outcome.proof ? "undecided" : check.is_refuted() ? "REFUTED" : "proved";
    table.row(
        {function.name, std::to_string(problem.dimension()), verdict,
         check.outcome.proof ? short_number(0.5 * (check.outcome.proof->lower + check.outcome.proof->upper), 12) : "-",
         std::to_string(check.points), check.outcome.proof ? std::to_string(check.boxes()) : "-"});
  }
  context.print("{}\n", table.text(context.width));
  context.print("{}", block_line("proved", fmt::format("{} of {}, in at most {} s each; {} refuted", proved, looked_at,
                                                       short_number(options.seconds.value_or(30), 3), refuted)));
  return refuted > 0 ? 1 : 0;
}

} // namespace

void add_check_minima(const Command& check, Context& context) {
  const Command command = check.command("minima", "the stated best value of a formula beside what is proved of it");
  auto options = std::make_shared<MinimaOptions>();
  command.takes("problem", options->name, "PROBLEM", "a problem, with options after a colon");
  options->problem.add_to(command);
  command.flag("--all", options->all, "every function of the testbed that is a formula, in its usual dimension");
  add_number(command, "--seconds", options->seconds, "how long a proof may take (30)", 0);
  command.example("tanzen check minima himmelblau");
  command.does([options, &context] {
    const Method prover = context.additions.methods.find("branch-and-bound");
    context.exit_code = options->all ? check_all(context, *options, prover) : check_one(context, *options, prover);
  });
}

} // namespace tanzen::cli
