#pragma once

#include "tanzen/figure/render.hpp"

namespace tanzen {

/// Writes a figure as a page of its own that a browser shows.
class PageRenderer final : public Renderer {
 public:
  [[nodiscard]] std::span<const std::string_view> endings() const override;
  [[nodiscard]] std::string drawn(const Figure& figure, std::string_view ending) const override;
};

} // namespace tanzen
