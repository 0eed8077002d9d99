#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include "comparison_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// Each method's place on the line of ranks, with a leader to its name below, the best first.
void add_methods(Panel& panel, const GroupComparison& comparison, const std::vector<std::size_t>& order) {
  const auto count = static_cast<double>(order.size());
  for (std::size_t k = 0; k < order.size(); ++k) {
    const GroupRow& row = comparison.rows[order[k]];
    const MethodStyle style = method_style(order[k]);
    // The better half is named on the left, the other on the right, so that leaders do not cross.
    const bool on_left = 2 * k < order.size();
    const double depth = on_left ? static_cast<double>(k) + 1 : count - static_cast<double>(k);
    const double edge = on_left ? 0.75 : count + 0.25;
    panel.layers.emplace_back(LineLayer{.x = {row.mean_rank, row.mean_rank, edge},
                                        .y = {0, -depth, -depth},
                                        .color = style.color,
                                        .width = 1.5,
                                        .series = row.method});
    panel.layers.emplace_back(PointLayer{.x = {row.mean_rank},
                                         .y = {0},
                                         .marker = Marker::dot,
                                         .color = style.color,
                                         .size = 1.3,
                                         .series = row.method});
    panel.layers.emplace_back(TextLayer{.x = {edge},
                                        .y = {-depth + 0.22},
                                        .texts = {fmt::format("{}  {:.2f}", row.method, row.mean_rank)},
                                        .color = style.color,
                                        .align = on_left ? TextLayer::Align::left : TextLayer::Align::right,
                                        .size = 12,
                                        .series = row.method});
  }
}

} // namespace

Figure ranks_figure(const Results& results, const ProblemGroup& group, std::optional<double> gap) {
  const GroupComparison comparison = compare_over(compare(results, gap), results, group);
  if (comparison.rows.size() < 2 || comparison.problems < 2)
    throw InputError("ranks need at least two methods and two problems");
  Figure figure = comparison_figure("Mean ranks over the problems, the best on the left", results, group);
  Panel panel;
  panel.title =
      fmt::format("bars join what a critical distance of {:.2f} (5 %) does not tell apart; Friedman's test p {}",
                  comparison.critical_distance, short_number(comparison.friedman.p, 2));
  std::vector<double> ranks;
  for (const GroupRow& row : comparison.rows) ranks.push_back(row.mean_rank);
  std::vector<std::size_t> order(ranks.size());
  for (std::size_t k = 0; k < order.size(); ++k) order[k] = k;
  std::ranges::stable_sort(order, {}, [&](std::size_t k) { return ranks[k]; });
  add_methods(panel, comparison, order);
  double height = 0.35;
  for (const auto& clique : rank_cliques(ranks, comparison.critical_distance)) {
    constexpr double over = 0.03;
    panel.layers.emplace_back(LineLayer{.x = {ranks[clique.front()] - over, ranks[clique.back()] + over},
                                        .y = {height, height},
                                        .color = std::string(path_color),
                                        .width = 5});
    height += 0.35;
  }
  const auto count = static_cast<double>(ranks.size());
  panel.x = {.label = "mean rank", .range = std::array{0.7, count + 0.3}};
  panel.y = {.label = "", .range = std::array{-std::ceil(count / 2) - 0.8, height + 0.3}, .hidden = true};
  figure.panels.push_back(std::move(panel));
  return figure;
}

} // namespace tanzen
