#include "tanzen/search/outcome.hpp"

#include "tanzen/base/text.hpp"

#include <array>
#include <cmath>
#include <fmt/format.h>
#include <ostream>

namespace tanzen {
namespace {

/// The first word of the block: what kind of end it was.
std::string_view ending(const Outcome& outcome) {
  if (outcome.converged()) return "converged";
  switch (outcome.status) {
  case Status::diverged: return "diverged";
  case Status::failed: return "failed";
  case Status::interrupted: return "interrupted";
  case Status::stalled: return "stalled";
  case Status::infeasible: return "infeasible";
  default: return "stopped";
  }
}

std::string effort_text(const Outcome& outcome) {
  constexpr std::array<std::string_view, all_spent.size()> singular = {"evaluation", "gradient", "Hessian"};
  std::string text = counted(outcome.iterations, "iteration");
  for (std::size_t k = 0; k < all_spent.size(); ++k) {
    const std::int64_t count = outcome.counts[all_spent[k]];
    if (k == 0 || count > 0) text += ", " + counted(count, singular[k]);
  }
  return text + ", " + duration_text(outcome.seconds);
}

/// What one more unit of an active limit is worth: said of stationary points alone, where it is true.
std::string worth_text(const ConstraintState& state, Sense sense, PointCheck::Verdict verdict) {
  if (std::isnan(state.value)) return "has no value here";
  if (!state.active) return "";
  if (std::isnan(state.multiplier) || verdict != PointCheck::Verdict::stationary) return "active";
  const std::string kind = state.lower == state.upper ? "equality" : "active";
  if (state.multiplier == 0) return kind;
  const bool is_cost = (state.multiplier > 0) == (sense == Sense::minimize);
  return fmt::format("{}: one more unit {} {}", kind, is_cost ? "costs" : "gains",
                     short_number(std::abs(state.multiplier), 4));
}

std::string limit_text(const ConstraintState& state) {
  if (state.lower == state.upper) return "= " + short_number(state.lower, 6);
  if (std::isinf(state.lower)) return "<= " + short_number(state.upper, 6);
  if (std::isinf(state.upper)) return ">= " + short_number(state.lower, 6);
  return fmt::format("{} .. {}", short_number(state.lower, 6), short_number(state.upper, 6));
}

std::string known_text(const Outcome& outcome) {
  const std::string best = outcome.sense == Sense::minimize ? "minimum" : "maximum";
  std::string text =
      fmt::format("gap {} to the global {} {}", short_number(*outcome.gap, 3), best, number_text(*outcome.best_known));
  const double by_value = std::abs(outcome.value - *outcome.best_known);
  if (std::abs(by_value - std::abs(*outcome.gap)) > 1e-9 * (1 + by_value)) text += ", without the noise";
  if (outcome.known_points == 1) text += fmt::format(", at distance {}", short_number(*outcome.distance, 3));
  if (outcome.known_points > 1) {
    text += fmt::format("; {} points have it, the nearest at distance {}", outcome.known_points,
                        short_number(*outcome.distance, 3));
  }
  return text;
}

} // namespace

std::string duration_text(double seconds) {
  if (seconds < 1) return fmt::format("{:.3g} ms", 1e3 * seconds);
  return seconds < 120 ? fmt::format("{:.2f} s", seconds) : fmt::format("{:.1f} min", seconds / 60);
}

/// How many points, and what they cover: of the true front, or towards the reference.
std::string front_text(const Outcome& outcome) {
  const std::string count = counted(static_cast<long long>(outcome.front.size()), "nondominated point");
  if (std::isnan(outcome.value)) return count;
  if (!outcome.best_known)
    return fmt::format("{}, covering {} towards the reference", count, short_number(outcome.value, 6));
  return fmt::format("{}, covering {} % of what the true front covers", count, short_number(100 * outcome.value, 6));
}

std::string constraints_text(const Outcome& outcome) {
  if (outcome.checked.constraints.empty()) return "";
  std::string text = fmt::format("  {:<14} {:>13} {:>14} {:>10} {:>11}\n", "constraint", "at the point", "limit",
                                 "slack", "multiplier");
  for (const ConstraintState& state : outcome.checked.constraints) {
    const auto number = [](double value, int digits) {
      return std::isnan(value) ? std::string("-") : short_number(value, digits);
    };
    const std::string worth = worth_text(state, outcome.sense, outcome.checked.verdict);
    text += fmt::format("  {:<14} {:>13} {:>14} {:>10} {:>11}{}{}\n", state.name, number(state.value, 6),
                        limit_text(state), number(state.slack, 3), state.active ? number(state.multiplier, 5) : "-",
                        worth.empty() ? "" : "  ", worth);
  }
  return text;
}

std::string to_text(const Outcome& outcome, std::string_view checked) {
  std::string text = block_line(ending(outcome), outcome.message);
  const bool no_answer = outcome.status == Status::diverged;
  const bool has_value = !std::isnan(outcome.value);
  if (outcome.objectives.size() > 1) {
    text += block_line("front", front_text(outcome));
  } else if (!has_value) {
    text += block_line("value", "none: the objective had no value at any feasible point");
  } else {
    text += block_line(no_answer ? "best seen" : "value", short_number(outcome.value, 10));
    text += block_line("point", point_text(outcome.point));
    const std::string_view told = checked.empty() ? std::string_view(outcome.checked.how) : checked;
    if (!no_answer && !told.empty()) text += block_line("checked", told);
  }
  if (outcome.proof) text += to_text(*outcome.proof);
  if (!outcome.feasible) text += block_line("violation", short_number(outcome.violation, 6));
  text += block_line("effort", effort_text(outcome));
  if (outcome.checked.evaluations > 0)
    text +=
        block_line("", fmt::format("{} more to check the point", counted(outcome.checked.evaluations, "evaluation")));
  if (outcome.gap && has_value && outcome.objectives.size() < 2) text += block_line("known", known_text(outcome));
  if (outcome.events.outside_domain > 0) {
    text += block_line("outside", fmt::format("{} outside the objective's domain (NaN or infinite)",
                                              counted(outcome.events.outside_domain, "value")));
  }
  if (outcome.events.broken > 0) {
    text +=
        block_line("broken", fmt::format("{} gave no value; the first: {}",
                                         counted(outcome.events.broken, "evaluation"), outcome.events.first_broken));
  }
  const std::string constraints = constraints_text(outcome);
  return constraints.empty() ? text : text + "\n" + constraints;
}

std::ostream& operator<<(std::ostream& out, const Outcome& outcome) {
  return out << to_text(outcome);
}

} // namespace tanzen
