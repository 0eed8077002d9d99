#include "tanzen/methods/fronts/generalized_differential.hpp"

#include "front_members.hpp"

#include "../population/trial_vector.hpp"

#include <algorithm>
#include <limits>

namespace tanzen::methods {
namespace {

/// The members of a rank that stay, so many: again and again the one with least room goes, and the others' room is
/// looked at anew.
std::vector<Index> with_room(const Matrix& objectives, std::vector<Index> same, Index count) {
  while (static_cast<Index>(same.size()) > count) {
    const Vector room = crowding_of(objectives(Eigen::all, same));
    Index least = 0;
    room.minCoeff(&least);
    same.erase(same.begin() + least);
  }
  return same;
}

FrontMembers cut_back(const FrontMembers& all, Index count, double feasibility) {
  const std::vector<int> ranks = ranks_of(all, feasibility);
  std::vector<Index> kept;
  for (int rank = 0; static_cast<Index>(kept.size()) < count; ++rank) {
    std::vector<Index> same;
    for (std::size_t k = 0; k < ranks.size(); ++k)
      if (ranks[k] == rank) same.push_back(static_cast<Index>(k));
    same = with_room(all.objectives, std::move(same), count - static_cast<Index>(kept.size()));
    kept.insert(kept.end(), same.begin(), same.end());
  }
  return all.some(kept);
}

/// Three different members that are not `k`.
std::array<Index, 3> three_but(Index k, Index count, RandomStream& random) {
  std::array<Index, 3> drawn{};
  for (std::size_t i = 0; i < drawn.size();) {
    drawn[i] = random.below(count);
    const bool is_new = drawn[i] != k && std::find(drawn.begin(), drawn.begin() + static_cast<std::ptrdiff_t>(i),
                                                   drawn[i]) == drawn.begin() + static_cast<std::ptrdiff_t>(i);
    i += is_new ? 1 : 0;
  }
  return drawn;
}

} // namespace

MethodCard GeneralizedDifferential::card() {
  return {.title = "generalized differential evolution",
          .family = "fronts",
          .source = "Kukkonen and Lampinen, 2005",
          .limits = "a coordinate outside goes halfway back to the bound; constraints by feasibility first",
          .summary = "Two or three objectives of real variables that depend on each other.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true, .fronts = true}};
}

void GeneralizedDifferential::settings(Settings& list) {
  list.add("population", population).at_least(4).at_most(1e5).means("members");
  list.add("step", step).above(0).at_most(2).means("what a difference of members is multiplied by");
  list.add("crossover", crossover).between(0, 1).means("chance that a coordinate comes from the mutant");
}

Search GeneralizedDifferential::search(Evaluator& evaluate, Start start) const {
  RandomStream& random = start.random;
  const double level = evaluate.feasibility();
  FrontMembers members = first_members(evaluate, start, population);
  FrontStand stand;
  Matrix trials;
  for (;;) {
    trials = members.points;
    for (Index k = 0; k < population; ++k) {
      const auto [a, b, c] = three_but(k, population, random);
      const auto mutant = [&, a = a, b = b, c = c](Index j) {
        return members.points(j, a) + step * (members.points(j, b) - members.points(j, c));
      };
      cross_binomially(mutant, crossover, random, trials.col(k));
      bounce_back(evaluate.bounds(), members.points.col(k), trials.col(k));
    }
    const FrontMembers made = visited(evaluate, trials);
    std::vector<Index> both;
    for (Index k = 0; k < population; ++k) {
      const bool is_worse = comes_before(members, k, made, k, level);
      if (is_worse) continue;
      const bool is_better = comes_before(made, k, members, k, level);
      const bool is_same = made.objectives.col(k) == members.objectives.col(k) || made.violations[k] > level;
      if (is_better || is_same)
        members.set(k, made, k);
      else
        both.push_back(k);
    }
    members.append(made.some(both));
    if (!both.empty()) members = cut_back(members, population, level);
    co_yield stand.iteration(evaluate, members);
  }
}

} // namespace tanzen::methods
