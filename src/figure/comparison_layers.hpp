#pragma once

#include "tanzen/figure/comparison_figures.hpp"

#include <string>
#include <vector>

/// What figures of finished runs share.
namespace tanzen {

/// Figures of finished runs have so many panels at most.
inline constexpr std::size_t most_comparison_panels = 6;

/// Title and caption: what is shown, of which campaign, over what.
[[nodiscard]] Figure comparison_figure(const std::string& what, const Results& results, const ProblemGroup& group);

/// The problems of a group that can be compared, `most` of them at most. Throws InputError where there are none.
[[nodiscard]] std::vector<std::size_t> comparable_problems(const Results& results, const ProblemGroup& group,
                                                           std::size_t most);

/// Panels in rows, two or three beside each other.
void arrange(Figure& figure);

/// A rising curve of parts, drawn in steps between two costs, in a method's style, with its name at its end.
void add_steps(Panel& panel, std::size_t method, const std::string& name, const std::vector<double>& cost,
               const std::vector<double>& share, double from, double to);

/// An axis of parts of a whole.
[[nodiscard]] Axis share_axis(const std::string& label);

/// The gap below which runs on a problem are not told apart: a tenth of its smallest target.
[[nodiscard]] double least_gap(const ResultsProblem& problem);

/// The floor where gaps of at most that lie, over a panel from one place to another, named where some do.
void add_gap_floor(Panel& panel, double floor, double from, double to);

} // namespace tanzen
