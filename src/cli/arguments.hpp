#pragma once

#include "commands.hpp"

#include "tanzen/methods/catalogue.hpp"
#include "tanzen/problem/definition.hpp"
#include "tanzen/search/run.hpp"

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace tanzen::cli {

/// An option that takes a number; its message names the option and what would be right.
void add_number(const Command& command, const std::string& name, std::optional<double>& target, const std::string& help,
                double least = -std::numeric_limits<double>::infinity());
void add_count(const Command& command, const std::string& name, std::optional<std::int64_t>& target,
               const std::string& help, std::int64_t least = 1, std::int64_t most = std::int64_t{1} << 53U);
/// A number of threads, at most 1024.
void add_threads(const Command& command, const std::string& name, std::optional<std::int64_t>& target,
                 const std::string& help);

/// The seed: a whole number from 0.
void add_seed(const Command& command, std::uint64_t& seed);

/// A line that says which variables bear the name of a constant, and hide it; empty where none does.
[[nodiscard]] std::string constant_note(const Problem& problem);

/// A point as it is typed: `2.5,-1` in the order of the variables, or `y=-1,x=2.5`.
[[nodiscard]] Vector parse_point(std::string_view text, const std::vector<std::string>& variables,
                                 std::string_view what);

/// Intervals as they are typed: `-5:5` for all variables, `x=-5:5,y=0:2` by name, others as in `rest`. A side may be
/// left out where `open` allows it.
[[nodiscard]] Box parse_box(std::string_view text, const std::vector<std::string>& variables, const Box& rest,
                            bool open, std::string_view what);

/// How a problem is named on the command line.
class ProblemArguments {
 public:
  /// `--formula`, `--program`, `--variables`, `--region`, `--bounds`, `--fix`, `--maximize`, `--minimize`.
  void add_to(const Command& command);

  /// A testbed name, one of the additions, a problem file (.toml), or the formula. Throws InputError where there is
  /// none or both.
  [[nodiscard]] Problem problem(const Additions& additions, const std::string& name) const;
  /// The same as text, for a file at `target`: of a problem file its own parts, otherwise the objective written out.
  [[nodiscard]] ProblemDefinition definition(const Additions& additions, const std::string& name,
                                             const std::filesystem::path& target) const;
  [[nodiscard]] bool has_formula() const { return formula_.has_value() || program_.has_value(); }
  /// What `--fix` gives.
  [[nodiscard]] std::map<std::string, double> parameters() const;

 private:
  [[nodiscard]] Problem from_formula() const;
  [[nodiscard]] ProblemDefinition program_definition() const;
  [[nodiscard]] ProblemDefinition definition_in(const std::string& file) const;
  [[nodiscard]] Problem from_file(const Additions& additions, const std::string& name) const;
  [[nodiscard]] Problem typed_program() const;

  std::optional<std::string> formula_, program_;
  std::string variables_;
  std::string region_;
  std::string bounds_;
  std::vector<std::string> fixed_;
  bool maximize_ = false;
  bool minimize_ = false;
};

/// Limits, tolerances and targets.
class StopArguments {
 public:
  /// `usual` are the rules of who types none.
  explicit StopArguments(const StopRules& usual = {}) : usual_(usual) {}
  void add_to(const Command& command);
  /// The usual rules with what was typed. A number of iterations is done exactly: tolerances that were not typed are
  /// off.
  [[nodiscard]] StopRules rules() const;
  /// Likewise; a front has no end of its own, so where no limit was typed 25,000 evaluations are one, as in the
  /// literature.
  [[nodiscard]] StopRules rules_for(const Problem& problem) const;
  [[nodiscard]] std::optional<double> gap() const { return gap_; }

 private:
  StopRules usual_;
  std::optional<std::int64_t> iterations_, evaluations_;
  std::optional<double> seconds_, target_, gap_, gradient_tolerance_, step_tolerance_, value_tolerance_, feasibility_;
  bool stop_on_broken_ = false;
};

/// `--derivative exact|forward|central`.
void add_derivative(const Command& command, DerivativeMode& mode);

} // namespace tanzen::cli
