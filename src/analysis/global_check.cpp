#include "tanzen/analysis/global_check.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/numeric/constants.hpp"

#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace tanzen {
namespace {

/// What is no better than by this is as good.
double room_about(double value) {
  return 1e-6 * std::max(1.0, std::abs(value));
}

GlobalCheck undecided(std::string reason) {
  return {
      .verdict = GlobalCheck::Verdict::undecided, .reason = std::move(reason), .bound = not_known, .value = not_known};
}

/// The last lower bound that the prover told, in the problem's sense. An iteration that a limit cut has none.
double bound_of(const Problem& problem, const Outcome& proof) {
  if (proof.proof) return problem.sense() == Sense::minimize ? proof.proof->lower : proof.proof->upper;
  double last = not_known;
  if (!proof.trace.has_column("lower_bound")) return last;
  for (const double bound : proof.trace.column("lower_bound")) last = std::isnan(bound) ? last : bound;
  return problem.sign() * last;
}

/// By how much something within the region may be better than `value`.
std::string global_reason(double most_better) {
  if (!(most_better > 0)) return "nothing within the region is better than what was found";
  return fmt::format("nothing within the region is better than what was found by more than {}",
                     number_at_least(std::nextafter(most_better, std::numeric_limits<double>::infinity()), 2));
}

std::string bound_text(const Problem& problem, double bound) {
  if (!std::isfinite(bound)) return "";
  return problem.sense() == Sense::minimize
             ? fmt::format("; within the region no value is below {}", number_at_most(bound, 10))
             : fmt::format("; within the region no value is above {}", number_at_least(bound, 10));
}

} // namespace

std::string_view verdict_word(GlobalCheck::Verdict verdict) {
  switch (verdict) {
  case GlobalCheck::Verdict::global: return "global";
  case GlobalCheck::Verdict::not_global: return "not global";
  case GlobalCheck::Verdict::undecided: return "undecided";
  }
  return "";
}

GlobalCheck check_global(const Problem& problem, const Outcome& outcome, const Method& prover, RunOptions options) {
  if (const auto why = why_not(prover, problem)) return undecided(*why);
  if (std::isnan(outcome.value) || !outcome.feasible) return undecided("the run found no feasible point");
  const Box region = problem.sampling_box();
  options.start = Coordinates(outcome.point.cwiseMax(region.lower).cwiseMin(region.upper));
  const Outcome proof = run(problem, prover, options);

  const bool is_found = proof.feasible && region.contains(proof.point);
  GlobalCheck check{.bound = bound_of(problem, proof),
                    .value = is_found ? proof.value : not_known,
                    .point = proof.point,
                    .proof = proof.proof,
                    .seconds = proof.seconds};
  const double room = room_about(outcome.value);
  const double most_better = problem.sign() * (outcome.value - check.bound);
  const double is_better = problem.sign() * (outcome.value - check.value);
  if (most_better <= room) {
    check.verdict = GlobalCheck::Verdict::global;
    check.reason = global_reason(most_better);
    if (!region.contains(outcome.point)) check.reason += ", and that lies outside";
  } else if (is_better > room) {
    check.verdict = GlobalCheck::Verdict::not_global;
    check.reason = fmt::format("{} was found within the region, at {}{}", short_number(check.value, 10),
                               point_text(check.point), check.proof ? "" : bound_text(problem, check.bound));
  } else {
    check.reason =
        fmt::format("{} ({} s){}", proof.message, short_number(proof.seconds, 3), bound_text(problem, check.bound));
  }
  return check;
}

std::string to_text(const GlobalCheck& check) {
  std::string text = block_line(verdict_word(check.verdict), check.reason);
  if (check.proof) text += to_text(*check.proof);
  return text;
}

} // namespace tanzen
