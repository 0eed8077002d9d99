#pragma once

#include "tanzen/figure/figure.hpp"

#include <nlohmann/json_fwd.hpp>

namespace tanzen {

/// All of a figure as one object, for a page: its texts, panels, axes and layers by the names of their members. Numbers
/// are as they are, null where there is none; grids, contour lines and long lists are packed in single precision, as
/// base64, where that is finer than can be seen.
[[nodiscard]] nlohmann::ordered_json figure_json(const Figure& figure);

} // namespace tanzen
