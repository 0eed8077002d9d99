#pragma once

#include "tanzen/search/run.hpp"

#include <optional>
#include <string>
#include <string_view>

namespace tanzen {

/// Whether anything within a problem's region is better than what a run found.
struct GlobalCheck {
  enum class Verdict {
    global,     ///< nothing is better by more than a millionth of the value, or of 1 where it is smaller: proved
    not_global, ///< something is, which was found
    undecided   ///< neither
  };
  Verdict verdict = Verdict::undecided;
  std::string reason = {}; ///< in a sentence, what is known
  double bound = 0;        ///< no value within the region is better, in the problem's sense; NaN where none is known
  double value = 0;        ///< the best that the proof came to within the region, or NaN
  Vector point = {};       ///< where it did
  std::optional<Proof> proof = {}; ///< where the best value within the region is enclosed
  double seconds = 0;
};

/// `global`, `not global` or `undecided`, as an outcome tells it.
[[nodiscard]] std::string_view verdict_word(GlobalCheck::Verdict verdict);

/// Sets a run's point beside what a prover (`branch-and-bound`, or a method of the user's own that ends `proved`) finds
/// when it begins there. The region is all that is looked at: where the run left it, it may have found something better
/// than all that lies within.
///
/// Cost: a run of the prover, which `options.stop` limits; its derivatives and values are no part of the outcome's.
/// Never throws for a prover that cannot handle the problem: that is `undecided`, and the reason says why.
[[nodiscard]] GlobalCheck check_global(const Problem& problem, const Outcome& outcome, const Method& prover,
                                       RunOptions options = {});

/// The lines that an outcome tells of it.
[[nodiscard]] std::string to_text(const GlobalCheck& check);

} // namespace tanzen
