#pragma once

#include "tanzen/problem/problem.hpp"

#include <functional>
#include <limits>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen::testbed {

/// What makes a function easy or hard, in the literature's words.
enum class Trait {
  smooth,
  convex,
  separable,
  unimodal,
  multimodal,
  ill_conditioned,
  plateau,
  valley,
  deceptive,
  non_differentiable,
  constrained, ///< by more than bounds
  fit,         ///< a model fitted to data
  several_objectives
};

[[nodiscard]] std::string_view trait_word(Trait trait);
[[nodiscard]] std::optional<Trait> trait_from_word(std::string_view word);

/// The numbers of variables that a function exists for, and the one it is used with when none is named.
struct Dimensions {
  Index least = 2;
  Index most = 2;
  Index usual = 2;
  Index multiple_of = 1;

  static constexpr Index any = 1'000'000;
  /// One number only.
  static constexpr Dimensions exactly(Index n) { return {n, n, n}; }
  static constexpr Dimensions from(Index least, Index usual = 2) { return {least, any, usual}; }
};

/// A number that shapes a function besides its variables.
struct Option {
  std::string name = {};
  double usual = 0;
  double least = -std::numeric_limits<double>::infinity();
  double most = std::numeric_limits<double>::infinity();
  bool is_whole = false; ///< it counts something
  std::string meaning = {};
};

using OptionValues = std::map<std::string, double>;

/// One function of the testbed, defined once: value, derivatives, card, pictures and checks come from this.
struct TestFunction {
  std::string name = {};
  std::string title = {};
  std::string
      formula; ///< the definition, in variables x[1] to x[n]; only for the card where `value` or `residuals` defines it
  std::string source = {};
  std::vector<Trait> traits = {};
  Dimensions dimensions = {};
  std::vector<Option> options = {};
  std::function<Expr(const TracedPoint& x, const OptionValues& options)> value = {};
  /// Where the function is a sum of squares: what is squared.
  std::function<std::vector<Expr>(const TracedPoint& x, const OptionValues& options)> residuals = {};
  /// Where there are several objectives: all of them, to be minimized.
  std::function<std::vector<Expr>(const TracedPoint& x, const OptionValues& options)> objectives = {};
  /// Besides `constraints`: what is to be at least 0, as rows c1, c2, ...
  std::function<std::vector<Expr>(const TracedPoint& x, const OptionValues& options)> rows = {};
  /// The front of several objectives; nothing where it is not known.
  std::function<std::optional<KnownFront>(Index n, const OptionValues& options)> front = {};
  /// What their number of variables usually is where an option changes that; otherwise `dimensions.usual`.
  std::function<Index(const OptionValues& options)> usual_dimension = {};
  /// Where it is a model fitted to data: all of it, with the start that is near; traits and the rest come from here.
  std::function<ProblemDefinition()> fit = {};
  /// A start that is far, taken by the option `far`, which then is there; empty where there is none.
  Vector far_start = {};
  std::function<Box(Index n)> region = {};
  bool region_is_bounds = false;           ///< where the minimum stated holds within the region only
  std::function<Box(Index n)> bounds = {}; ///< hard limits that are not the region
  /// Relations of x[1] to x[n], written any way round.
  std::function<std::vector<std::string>(Index n)> constraints = {};
  std::function<Vector(Index n)> start = {};
  /// What is known; a minimum of which only the value is known has an empty point.
  std::function<std::vector<KnownMinimum>(Index n)> minima = {};
};

/// The same interval for all variables.
[[nodiscard]] std::function<Box(Index)> everywhere(double lower, double upper);

/// One global minimum with the same coordinate everywhere.
[[nodiscard]] std::function<std::vector<KnownMinimum>(Index)> at_constant(double coordinate, double value);

} // namespace tanzen::testbed
