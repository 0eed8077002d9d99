#pragma once

#include "arguments.hpp"
#include "pictures.hpp"

#include "tanzen/comparison/grouping.hpp"
#include "tanzen/figure/figure.hpp"

#include <array>
#include <functional>
#include <memory>

namespace tanzen::cli {

/// What the kinds of figures are asked for with; each has its own part of it.
struct FigureOptions {
  std::string name;
  ProblemArguments problem;
  std::string output;
  std::string through;
  std::string plane;
  bool surface = false;
  std::string from, to, along;
  std::vector<std::string> methods;
  std::uint64_t seed = 1;
  StopArguments stop;
  std::optional<std::int64_t> iteration;
  std::string at;
  std::optional<std::int64_t> count;
  std::string sampling = "uniform";
  PictureArguments film;
};

/// One kind of figure as a command under `figure`, with its problem and its output file; more options are the caller's.
struct FigureKind {
  Command command;
  std::shared_ptr<FigureOptions> options;
};
FigureKind add_kind(const Command& figure, Context& context, const char* name, const char* what, const char* example,
                    void (*draw)(const Context&, const FigureOptions&));

/// Before the work: throws for an output that no figure can have, or that cannot be written.
void check_output(const std::string& output);

/// Renders into the output file and says so.
void draw(const Context& context, const Figure& figure, const std::string& output);

/// The methods asked for, each of which can keep the problem's bounds.
[[nodiscard]] std::vector<Method> chosen_methods(const Context& context, const FigureOptions& options,
                                                 const Problem& problem);

/// The kinds that show populations, samples and ends.
void add_population_kinds(const Command& figure, Context& context);

/// The kinds that show finished runs.
void add_comparison_kinds(const Command& figure, Context& context);

/// The true front of a problem of the testbed; null where it has none.
[[nodiscard]] std::shared_ptr<const KnownFront> true_front(const std::string& label);

/// What a problem of two variables looks like, by its label; none for others, and for one that is not found.
[[nodiscard]] std::optional<Figure> landscape_of(const std::function<Problem(const std::string&)>& named,
                                                 const std::string& label);

/// Draws all figures of finished runs that have something to show into a folder, as PNG by their kinds' names; a line
/// each says so.
void draw_comparisons(const Context& context, const Results& results, const ProblemGroup& group,
                      std::optional<double> gap, const std::filesystem::path& folder);

} // namespace tanzen::cli
