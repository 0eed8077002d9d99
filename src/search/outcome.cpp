#include "tanzen/search/outcome.hpp"

#include "tanzen/base/text.hpp"

#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// The first word of the block: what kind of end it was.
std::string_view ending(const Outcome& outcome) {
  if (outcome.converged()) return "converged";
  switch (outcome.status) {
  case Status::diverged: return "diverged";
  case Status::failed: return "failed";
  case Status::interrupted: return "interrupted";
  default: return "stopped";
  }
}

std::string effort_text(const Outcome& outcome) {
  std::string text = fmt::format("{}, {}", counted(outcome.iterations, "iteration"),
                                 counted(outcome.counts.evaluations, "evaluation"));
  if (outcome.counts.gradients > 0) text += ", " + counted(outcome.counts.gradients, "gradient");
  if (outcome.counts.hessians > 0) text += ", " + counted(outcome.counts.hessians, "Hessian");
  return text + ", " + duration_text(outcome.seconds);
}

std::string known_text(const Outcome& outcome) {
  const std::string best = outcome.sense == Sense::minimize ? "minimum" : "maximum";
  std::string text =
      fmt::format("gap {} to the global {} {}", short_number(*outcome.gap, 3), best, number_text(*outcome.best_known));
  if (outcome.known_points == 1) text += fmt::format(", at distance {}", short_number(*outcome.distance, 3));
  if (outcome.known_points > 1) {
    text += fmt::format("; {} points have it, the nearest at distance {}", outcome.known_points,
                        short_number(*outcome.distance, 3));
  }
  return text;
}

} // namespace

std::string block_line(std::string_view label, std::string_view text) {
  return fmt::format("  {:<13} {}\n", label, text);
}

std::string duration_text(double seconds) {
  if (seconds < 1) return fmt::format("{:.3g} ms", 1e3 * seconds);
  return seconds < 120 ? fmt::format("{:.2f} s", seconds) : fmt::format("{:.1f} min", seconds / 60);
}

std::string to_text(const Outcome& outcome) {
  std::string text = block_line(ending(outcome), outcome.message);
  const bool no_answer = outcome.status == Status::diverged;
  const bool has_value = !std::isnan(outcome.value);
  if (!has_value) {
    text += block_line("value", "none: the objective had no value at any feasible point");
  } else {
    text += block_line(no_answer ? "best seen" : "value", short_number(outcome.value, 10));
    text += block_line("point", point_text(outcome.point));
  }
  text += block_line("effort", effort_text(outcome));
  if (outcome.gap && has_value) text += block_line("known", known_text(outcome));
  if (outcome.events.outside_domain > 0) {
    text += block_line("outside", fmt::format("{} outside the objective's domain (NaN or infinite)",
                                              counted(outcome.events.outside_domain, "value")));
  }
  if (outcome.events.broken > 0) {
    text +=
        block_line("broken", fmt::format("{} gave no value; the first: {}",
                                         counted(outcome.events.broken, "evaluation"), outcome.events.first_broken));
  }
  return text;
}

} // namespace tanzen
