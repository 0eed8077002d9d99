#pragma once

#include <cstdint>
#include <span>
#include <string_view>

namespace tanzen::testbed {

/// What was proved of a problem of the testbed within its region, by `scripts/proved.sh`.
struct ProvedValue {
  std::string_view problem; ///< as it is written: `rosenbrock` or `rosenbrock:dim=3`
  double lower, upper;      ///< the best value lies between
  int boxes;                ///< that hold all global minimizers
  std::int64_t looked_at;   ///< boxes that it took
};

/// In the order of the catalogue.
[[nodiscard]] std::span<const ProvedValue> proved_values();

/// Null where nothing was proved of it.
[[nodiscard]] const ProvedValue* proved_value(std::string_view problem);

} // namespace tanzen::testbed
