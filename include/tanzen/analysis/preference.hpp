#pragma once

#include "tanzen/search/outcome.hpp"

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// By what one point of a front is chosen.
struct Preference {
  enum class Kind {
    knee,     ///< the point farthest below the plane through the ends of the front (Das, 1999)
    weights,  ///< the least weighted sum of the objectives, in parts of the front's range
    reference ///< the nearest to what is wanted, by the largest share that is missing (Wierzbicki, 1980)
  };
  Kind kind = Kind::knee;
  Vector numbers = {}; ///< a weight, or a wanted value in its own sense, for each objective; none for the knee

  /// `knee`, `weights:0.3,0.7`, `reference:12,30`. Throws InputError for what is none, or not one number an objective.
  [[nodiscard]] static Preference parse(std::string_view text, Index objectives);
};

/// What it costs to have more of one objective than a chosen point has.
struct Exchange {
  Index objective = 0;   ///< the one that gets better
  std::size_t point = 0; ///< of the front, the nearest one where it does
  Vector change = {};    ///< of all objectives, in their own senses
};

struct Choice {
  std::size_t point = 0; ///< of the front
  /// For each objective that can be better by at least a twentieth of its range on the front.
  std::vector<Exchange> exchanges = {};
};

/// Requires a front. Cost: a look at each point, and at each again for each objective.
[[nodiscard]] Choice choose(const Outcome& outcome, const Preference& preference);

/// The place of the front's best point of each objective.
[[nodiscard]] std::vector<std::size_t> front_ends(const Outcome& outcome);

/// The chosen point with its objectives, and a sentence for each exchange.
[[nodiscard]] std::string to_text(const Outcome& outcome, const Choice& choice);

} // namespace tanzen
