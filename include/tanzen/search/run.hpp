#pragma once

#include "tanzen/search/outcome.hpp"
#include "tanzen/search/stop_rules.hpp"
#include "tanzen/search/team.hpp"

#include <functional>
#include <memory>
#include <optional>

namespace tanzen {

/// What an observer sees after each iteration, and at the start as iteration 0. Values are in the problem's sense.
struct Progress {
  std::int64_t iteration;
  Counts counts;
  const Vector& point; ///< borrowed until the observer returns
  double value;
  double best_value;
  const Iteration* details; ///< what the method told; null at the start
};

enum class Watch { go_on, stop };

/// Called after each iteration; may stop the run, which then ends as interrupted.
using Observer = std::function<Watch(const Progress&)>;

struct RunOptions {
  std::uint64_t seed = 1;
  /// Distinguishes paired replications of one seed: all methods of one repeat get the same start.
  std::uint64_t repeat = 0;
  /// Where to begin; unset means the problem's start, or without one a random point of its region.
  std::optional<Coordinates> start = std::nullopt;
  StopRules stop = {};
  TracePolicy trace = {};
  DerivativeMode derivative = DerivativeMode::automatic;
  /// Gaps to the best value known, from large to small: the outcome says what had been used when each was first
  /// reached.
  std::vector<double> milestones = {};
  Observer observer = {};
  /// Who evaluates populations; the outcome does not depend on it.
  Team team = {};
  /// Whether the point of a problem that is only called may be checked by values around it, some 12 n of them; they
  /// count nowhere else.
  bool check_end = false;
};

/// A run under way, for stepping from outside:
/// `while (run.step()) look(run.point()); Outcome end = std::move(run).finish();`
class Run {
 public:
  /// Evaluates the start. Throws InputError for a start or rules that cannot be.
  Run(const Problem& problem, const Method& method, const RunOptions& options = {});
  Run(Run&&) noexcept;
  Run& operator=(Run&&) noexcept;
  ~Run();

  /// Does one iteration. False when the run is over, also where this iteration ended it.
  bool step();
  [[nodiscard]] bool is_over() const;
  [[nodiscard]] std::int64_t iterations() const;
  /// Where the method stands.
  [[nodiscard]] const Vector& point() const;
  /// The table so far.
  [[nodiscard]] const Trace& trace() const;
  /// What came out; a run that is not over yet counts as interrupted. The run is gone then.
  [[nodiscard]] Outcome finish() &&;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

/// Runs a method on a problem to its end. Bad input throws InputError; how the run went is in the Outcome.
[[nodiscard]] Outcome run(const Problem& problem, const Method& method, const RunOptions& options = {});

/// Where a run of these options begins: the start given, the problem's, or a random point of the region keyed by
/// seed and repeat.
[[nodiscard]] Vector start_point(const Problem& problem, const RunOptions& options);

} // namespace tanzen
