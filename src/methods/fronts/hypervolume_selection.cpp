#include "tanzen/methods/fronts/hypervolume_selection.hpp"

#include "tanzen/statistics/fronts.hpp"

#include "front_variation.hpp"

#include <algorithm>
#include <limits>

namespace tanzen::methods {
namespace {

/// The one of the last rank that goes.
Index spared(const FrontMembers& members, double feasibility) {
  const std::vector<int> ranks = ranks_of(members, feasibility);
  const int last = *std::ranges::max_element(ranks);
  std::vector<Index> same;
  for (std::size_t k = 0; k < ranks.size(); ++k)
    if (ranks[k] == last) same.push_back(static_cast<Index>(k));
  if (same.size() == 1) return same.front();
  if (last > 0) {
    // Where there is more than one rank it is cheaper, and no worse, to count who dominates (section 3.3).
    return *std::ranges::max_element(same, {}, [&](Index k) {
      Index above = 0;
      for (Index other = 0; other < members.size(); ++other)
        above += comes_before(members, other, members, k, feasibility) ? 1 : 0;
      return above;
    });
  }
  const Matrix objectives = members.objectives(Eigen::all, same);
  const Vector highest = objectives.rowwise().maxCoeff(), lowest = objectives.rowwise().minCoeff();
  const Vector widths = (highest - lowest).unaryExpr([](double width) { return width > 0 ? width : 1.0; });
  Vector own = hypervolume_contributions(objectives, highest + widths);
  if (objectives.rows() == 2) {
    for (const Index row : {0, 1}) {
      Index end = 0;
      objectives.row(row).minCoeff(&end);
      own[end] = std::numeric_limits<double>::infinity();
    }
  }
  Index least = 0;
  own.minCoeff(&least);
  return same[static_cast<std::size_t>(least)];
}

} // namespace

MethodCard HypervolumeSelection::card() {
  return {.title = "selection by what each member adds to the hypervolume",
          .family = "fronts",
          .source = "Beume, Naujoks and Emmerich, 2007",
          .limits = "no child lies outside the bounds; constraints by feasibility first",
          .summary = "Two or three objectives where the front is to be covered best by few members.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true, .fronts = true}};
}

void HypervolumeSelection::settings(Settings& list) {
  list.add("population", population).at_least(4).at_most(1e4).means("members");
  variation.settings(list);
}

Search HypervolumeSelection::search(Evaluator& evaluate, Start start) const {
  RandomStream& random = start.random;
  const Vector widths = evaluate.problem().sampling_box().width();
  const BoundedVariation vary = variation_of(variation, evaluate.bounds(), widths);
  FrontMembers members = first_members(evaluate, start, population);
  FrontStand stand;
  Vector first, second;
  for (;;) {
    for (Index made = 0; made < population; ++made) {
      first = members.points.col(random.below(population));
      second = members.points.col(random.below(population));
      vary.cross(first, second, random);
      vary.mutate(first, random);
      members.append(visited(evaluate, first));
      const Index out = spared(members, evaluate.feasibility());
      const Index last = members.size() - 1;
      if (out != last) members.set(out, members, last);
      members.points.conservativeResize(Eigen::NoChange, last);
      members.objectives.conservativeResize(Eigen::NoChange, last);
      members.violations.conservativeResize(last);
    }
    co_yield stand.iteration(evaluate, members);
  }
}

} // namespace tanzen::methods
