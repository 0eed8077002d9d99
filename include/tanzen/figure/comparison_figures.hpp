#pragma once

#include "tanzen/comparison/comparison.hpp"
#include "tanzen/comparison/grouping.hpp"
#include "tanzen/figure/figure.hpp"
#include "tanzen/results/results.hpp"

#include <cstddef>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <utility>

namespace tanzen {

/// What a method looks like in every figure of a campaign: by its place in it.
struct MethodStyle {
  std::string color = {};
  int dash = 1;
  Marker marker = Marker::dot;
};
[[nodiscard]] MethodStyle method_style(std::size_t method);

// The figures of finished runs, each over a group of problems. All throw InputError where there is nothing to show.

/// Medians and quartiles of the gap against the cost, a panel a problem, six at most. Needs results with their traces.
[[nodiscard]] Figure bands_figure(const Results& results, const ProblemGroup& group);

/// Empirical distributions of runtimes: for each method, the part of all runs and targets that is done against the cost
/// for each variable.
[[nodiscard]] Figure runtimes_figure(const Results& results, const ProblemGroup& group);

/// Performance profiles (Dolan and Moré, 2002) and data profiles (Moré and Wild, 2009) over the problems and repeats,
/// at a gap.
[[nodiscard]] Figure profiles_figure(const Results& results, const ProblemGroup& group, std::optional<double> gap);

/// Final gaps: a box from quartile to quartile with its median, and all runs as points; a panel a problem, six at most.
[[nodiscard]] Figure accuracy_figure(const Results& results, const ProblemGroup& group);

/// Where the true front of a problem is found by its label; null where it is not known.
using TrueFronts = std::function<std::shared_ptr<const KnownFront>(const std::string& label)>;

/// Fronts of several objectives over the true ones, a panel a problem, six at most: of two objectives what half of a
/// method's runs attain, with what a quarter and three quarters do (Fonseca and Fleming, 1996); of more the front of
/// the run with the middle gap. Needs results with their fronts.
[[nodiscard]] Figure fronts_figure(const Results& results, const ProblemGroup& group, const TrueFronts& true_front);

/// The part of the repeats that succeeded, as a map of methods and problems.
[[nodiscard]] Figure successes_figure(const Results& results, const ProblemGroup& group, std::optional<double> gap);

/// Mean ranks on a line, with bars over methods that the critical distance does not tell apart (Demšar, 2006, figure
/// 1). Requires two methods and two problems.
[[nodiscard]] Figure ranks_figure(const Results& results, const ProblemGroup& group, std::optional<double> gap);

/// Expected running time against the number of variables, a panel a family, six at most, with the fitted exponents.
[[nodiscard]] Figure scaling_figure(const Results& results, const ProblemGroup& group, std::optional<double> gap);

/// The costs of two methods to a gap in each paired run, one against the other; failures stand at the edge.
[[nodiscard]] Figure pair_figure(const Results& results, const ProblemGroup& group,
                                 std::pair<std::size_t, std::size_t> methods, std::optional<double> gap);

/// What kinds of figures of finished runs are asked for with; each takes what it needs.
struct ComparisonFigureOptions {
  std::optional<double> gap = {};
  std::pair<std::size_t, std::size_t> methods = {0, 1}; ///< of a pair
  TrueFronts true_front = {};
};

/// A kind of figure of finished runs.
struct ComparisonFigureKind {
  const char* name; ///< as the command line calls it
  const char* what;
  bool needs_traces = false;
  Figure (*make)(const Results& results, const ProblemGroup& group, const ComparisonFigureOptions& options);
};

/// All kinds there are.
[[nodiscard]] std::span<const ComparisonFigureKind> comparison_figure_kinds();

/// The figure of a kind; none where the results have nothing of it to show.
[[nodiscard]] std::optional<Figure> figure_of_kind(const ComparisonFigureKind& kind, const Results& results,
                                                   const ProblemGroup& group, const ComparisonFigureOptions& options);

} // namespace tanzen
