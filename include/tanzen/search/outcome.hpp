#pragma once

#include "tanzen/problem/problem.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"
#include "tanzen/search/point_check.hpp"
#include "tanzen/search/status.hpp"
#include "tanzen/search/trace.hpp"

#include <algorithm>
#include <cstdint>
#include <fmt/core.h>
#include <iosfwd>
#include <limits>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// What a run ended with, and why. Values are in the problem's sense.
struct Outcome {
  std::string problem = {};
  std::string method = {};       ///< its name
  std::string method_label = {}; ///< its name with the settings that were given
  std::vector<Method::SettingRow> settings = {};
  std::vector<std::string> variable_names = {};
  Sense sense = Sense::minimize;
  std::uint64_t seed = 0;

  Status status = Status::failed;
  std::string message = {}; ///< why it stopped, in words

  Vector start = {};
  double start_value = 0; ///< NaN where the start has none
  /// What is reported: the best feasible point seen, or the last one where the method settled there and the best is
  /// lower by no more than rounding, or than what its violation buys. Without a feasible one the least infeasible; the
  /// start where none has a value.
  Vector point = {};
  double value = 0;       ///< at `point`; NaN where no point had a value; of several objectives what the front
                          ///< covers, of what the true one does where that is known, to be maximized
  Vector last_point = {}; ///< where the method stood when the run ended
  double last_value = 0;
  double gradient_norm = 0;                              ///< the last one that the method told; NaN where it knows none
  double kkt = std::numeric_limits<double>::quiet_NaN(); ///< likewise, of its KKT residual

  std::int64_t iterations = 0;
  Counts counts;
  std::int64_t evaluations_to_best = 0; ///< how many evaluations it took to `point`
  std::vector<Counts> milestones = {}; ///< what had been used at each milestone of the run, as far as they were reached
  Events events;
  std::vector<FoundMinimum> minima = {}; ///< local ones that the method is sure of, best first
  double seconds = 0;

  std::optional<double> best_known = {};
  std::optional<double> gap = {};      ///< value minus the best value known, turned so that small is good
  std::optional<double> distance = {}; ///< from `point` to the nearest known global minimum
  int known_points = 0;                ///< how many global minima are known by their points
  double violation = 0;                ///< at `point`: the largest of the constraints' rows, and of the bounds
  bool feasible = true;                ///< whether that counts as feasible
  std::optional<Proof> proof = {};     ///< of a method that proves
  PointCheck checked;                  ///< what the problem tells of `point`; its constraints with their multipliers
  std::vector<Objective> objectives = {};
  std::vector<FrontPoint> front = {}; ///< of several objectives, each in its sense; by the first objective

  Trace trace;

  /// Whether the run ended where it wanted to, and the reported point is not known to be another kind of point.
  [[nodiscard]] bool converged() const {
    return may_be_converged(status) && feasible &&
           (status == Status::target || status == Status::proved ||
            checked.verdict != PointCheck::Verdict::not_stationary);
  }
  [[nodiscard]] Index dimension() const { return start.size(); }
};

/// The block that the command line prints: why the run stopped, value, point, what was checked, effort, what is known.
/// `checked` is said instead of the outcome's own words on that, by who knows more of the point.
[[nodiscard]] std::string to_text(const Outcome& outcome, std::string_view checked = {});

/// The constraints at the point, with limits, slacks and multipliers, as a table; empty where there are none.
[[nodiscard]] std::string constraints_text(const Outcome& outcome);

/// Seconds as a person reads them: `0.1 ms`, `2.4 s`.
[[nodiscard]] std::string duration_text(double seconds);

/// The same block: `std::cout << outcome`.
std::ostream& operator<<(std::ostream& out, const Outcome& outcome);

} // namespace tanzen

/// `fmt::print("{}\n", outcome)` prints the block of `to_text`.
template <>
struct fmt::formatter<tanzen::Outcome> {
  constexpr auto parse(fmt::format_parse_context& context) const { return context.begin(); }
  template <class Context>
  auto format(const tanzen::Outcome& outcome, Context& context) const {
    const std::string text = tanzen::to_text(outcome);
    return std::copy(text.begin(), text.end(), context.out());
  }
};
