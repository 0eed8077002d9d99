#pragma once

#include "tanzen/search/outcome.hpp"
#include "tanzen/search/stop_rules.hpp"
#include "tanzen/search/team.hpp"

#include <concepts>
#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

namespace tanzen {

/// What an observer sees after each iteration, and at the start as iteration 0. Values are in the problem's sense.
struct Progress {
  std::int64_t iteration = 0;
  Counts counts;
  const Vector& point; ///< borrowed until the observer returns
  double value = 0;
  double best_value = 0;
  const Iteration* details; ///< what the method told; null at the start
};

enum class Watch { go_on, stop };

/// Called after each iteration: any callable of a Progress. One that returns Watch::stop ends the run as interrupted;
/// one that returns nothing only looks.
class Observer {
 public:
  Observer() = default;
  template <class Function>
  requires(!std::same_as<std::remove_cvref_t<Function>, Observer> && std::invocable<Function&, const Progress&>)
      Observer(Function&& function) {
    if constexpr (std::is_void_v<std::invoke_result_t<Function&, const Progress&>>)
      watch_ = [look = std::forward<Function>(function)](const Progress& progress) mutable {
        look(progress);
        return Watch::go_on;
      };
    else
      watch_ = std::forward<Function>(function);
  }

  explicit operator bool() const { return static_cast<bool>(watch_); }
  Watch operator()(const Progress& progress) const { return watch_(progress); }

 private:
  std::function<Watch(const Progress&)> watch_;
};

/// A test of one's own: asked after each iteration; a reason ends the run with it, with the status `own`.
using StopTest = std::function<std::optional<std::string>(const Progress&)>;

struct RunOptions {
  std::uint64_t seed = 1;
  /// Distinguishes paired replications of one seed: all methods of one repeat get the same start.
  std::uint64_t repeat = 0;
  /// Where to begin; unset means the problem's start, or without one a random point of its region.
  OptionalCoordinates start = {};
  StopRules stop = {};
  TracePolicy trace = {};
  DerivativeMode derivative = DerivativeMode::automatic;
  /// Gaps to the best value known, from large to small: the outcome says what had been used when each was first
  /// reached.
  std::vector<double> milestones = {};
  Observer observer = {};
  StopTest stop_when = {};
  /// Whether the run shall stop, as interrupted: asked after each iteration, and some times a second, by any thread,
  /// while another program is waited for.
  std::function<bool()> asked_to_stop = {};
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
  /// How far it is, as an observer is told; borrows the run until its next step.
  [[nodiscard]] Progress progress() const;
  /// What has come out so far, the point checked; the run may go on. Cost: a copy of its table.
  [[nodiscard]] Outcome outcome() const;
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

/// The method as it stood at the end of a run, to go on with later, from its `last_point`: each setting of which the
/// method tells a column of the same name (`radius`, `step`, `sigma`) takes its last value there. All there is to a
/// method that is a point and a radius; others, such as quasi-Newton ones, learn their memory anew.
[[nodiscard]] Method as_it_stood(const Method& method, const Outcome& outcome);

} // namespace tanzen
