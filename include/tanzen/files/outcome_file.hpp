#pragma once

#include "tanzen/analysis/diagnosis.hpp"
#include "tanzen/analysis/global_check.hpp"
#include "tanzen/analysis/preference.hpp"
#include "tanzen/search/outcome.hpp"

#include <optional>
#include <string>
#include <string_view>

namespace tanzen {

/// An outcome, and what its trace shows, as one JSON object on one line; null where something is not known. The
/// trace itself is not in it. Where one point of a front was chosen it is told as `preferred`; where it was asked
/// whether anything is better, what is known of that as `global`.
[[nodiscard]] std::string outcome_to_json(const Outcome& outcome, const Diagnosis& diagnosis,
                                          const std::optional<Choice>& preferred = {},
                                          const std::optional<GlobalCheck>& global = {});

struct DiagnosedOutcome {
  Outcome outcome; ///< without a trace
  Diagnosis diagnosis;
};

/// Reads back what `outcome_to_json` wrote. Throws InputError with what is missing or wrong.
[[nodiscard]] DiagnosedOutcome outcome_from_json(std::string_view text);

} // namespace tanzen
