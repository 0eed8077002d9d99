#pragma once

#include "tanzen/figure/render.hpp"

namespace tanzen {

/// Writes a figure as a page of its own that a browser shows.
class PageRenderer final : public Renderer {
 public:
  [[nodiscard]] std::span<const std::string_view> endings() const override;
  void draw(const Figure& figure, const std::filesystem::path& path) const override;
};

} // namespace tanzen
