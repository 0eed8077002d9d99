#pragma once

#include "tanzen/report/table.hpp"
#include "tanzen/search/outcome.hpp"

#include <cstddef>
#include <cstdint>
#include <optional>
#include <string>

namespace tanzen {

/// The iterations of a run as a table of about 20 rows spread over it, or every k-th; always the first and the last.
/// `points` shows the coordinates too, where the trace has them.
[[nodiscard]] std::string iteration_table(const Trace& trace, std::optional<std::int64_t> every, bool points,
                                          std::size_t width = usual_width);

} // namespace tanzen
