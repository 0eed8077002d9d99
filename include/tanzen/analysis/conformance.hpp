#pragma once

#include "tanzen/search/method.hpp"

#include <cstdint>
#include <string>
#include <vector>

namespace tanzen {

/// One thing that every method must do.
struct ConformanceCheck {
  std::string name = {}; ///< `keeps within bounds`
  bool applies = true;
  bool passed = true;
  std::string detail = {}; ///< what was seen: where it failed, why it does not apply
};

struct ConformanceReport {
  std::string method = {};
  std::vector<ConformanceCheck> checks = {};

  [[nodiscard]] bool passed() const;
};

/// Runs a method on small problems made to catch what goes wrong: it must evaluate no point outside the bounds, keep a
/// limit on evaluations to the evaluation, repeat bit for bit by its seed, survive values that are missing, also at the
/// start, and plateaus, do one variable and a hundred, report columns that are finite and have names of their own, tell
/// the value of the point where it stands, and end by itself on a constant function. For a user's own tests:
/// `CHECK(check_method(Method("mine", Mine{})).passed())`.
///
/// Cost: some 300,000 evaluations at most; a second or two for a usual method.
[[nodiscard]] ConformanceReport check_method(const Method& method, std::uint64_t seed = 1);

/// A line for each check, as the command line prints them.
[[nodiscard]] std::string to_text(const ConformanceReport& report);

} // namespace tanzen
