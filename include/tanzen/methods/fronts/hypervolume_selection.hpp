#pragma once

#include "tanzen/methods/fronts/variation.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// One child at a time; then the member goes that the last rank can best spare: of several ranks the one that most
/// others dominate, of one alone the one that covers least by itself (Beume, Naujoks and Emmerich, 2007, algorithms 1
/// and 2). The reference is as far beyond the worst of the rank as that is wide, and of two objectives the ends stay.
///
/// Cost: an evaluation and so many hypervolumes as members, each of the few that limit a member; in four objectives and
/// more that takes much longer than most objectives do.
struct HypervolumeSelection {
  Index population = 100;
  VariationChoice variation;

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
