#pragma once

#include "tanzen/study/run_record.hpp"

#include <string>
#include <string_view>

namespace tanzen {

/// A record as bytes (MessagePack), for another process of the same campaign, and back to the same bits.
[[nodiscard]] std::string record_to_bytes(const RunRecord& record);
[[nodiscard]] RunRecord record_from_bytes(std::string_view bytes);

} // namespace tanzen
