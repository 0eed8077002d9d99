#pragma once

#include "tanzen/figure/render.hpp"

namespace tanzen {

/// Still pictures by gnuplot, as a process of its own.
class GnuplotRenderer final : public Renderer {
 public:
  [[nodiscard]] std::span<const std::string_view> endings() const override;
  void draw(const Figure& figure, const std::filesystem::path& path) const override;
};

} // namespace tanzen
