#pragma once

#include "tanzen/figure/render.hpp"

namespace tanzen {

/// Figures that move as films: .gif by gnuplot, .mp4 by the coder ffmpeg from gnuplot's pictures.
class FilmRenderer final : public Renderer {
 public:
  [[nodiscard]] std::span<const std::string_view> endings() const override;
  [[nodiscard]] std::string drawn(const Figure& figure, std::string_view ending) const override;
};

} // namespace tanzen
