#pragma once

#include "tanzen/results/results.hpp"

#include <cstdint>

namespace tanzen {

/// A number (CRC-32) of what all finished runs came to, in the order of the campaign: status, value and cost of each.
/// The same plan gives the same number, whoever did its runs and when; one run that differs changes it.
[[nodiscard]] std::uint32_t results_checksum(const Results& results);

} // namespace tanzen
