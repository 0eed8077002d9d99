#pragma once

#include "tanzen/figure/render.hpp"

namespace tanzen {

/// Figures that move as films: .gif by gnuplot, .mp4 by the coder ffmpeg from gnuplot's pictures.
class FilmRenderer final : public Renderer {
 public:
  [[nodiscard]] std::span<const std::string_view> endings() const override;
  void draw(const Figure& figure, const std::filesystem::path& path) const override;
};

} // namespace tanzen
