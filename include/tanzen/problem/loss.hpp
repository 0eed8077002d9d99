#pragma once

#include <string>
#include <string_view>

namespace tanzen {

/// How a large residual counts: rho(r) with rho(r) = r^2 for small ones.
///
/// | kind | rho(r), with the scale s | source |
/// | --- | --- | --- |
/// | squares | r^2 | |
/// | huber | r^2 up to s, then 2 s abs(r) - s^2 | Huber, 1964, twice his function |
/// | cauchy | s^2 log(1 + (r/s)^2) | Holland and Welsch, 1977, table 1 |
/// | absolute | 2 s^2 (sqrt(1 + (r/s)^2) - 1), near 2 s abs(r) for large ones | Charbonnier et al., 1994 |
/// | tukey | s^2/3 (1 - (1 - (r/s)^2)^3) up to s, then s^2/3 | Beaton and Tukey, 1974 |
struct Loss {
  enum class Kind { squares, huber, cauchy, absolute, tukey };

  Kind kind = Kind::squares;
  double scale = 1; ///< in the unit of the weighted residual

  [[nodiscard]] double value(double r) const;
  [[nodiscard]] double slope(double r) const;
  [[nodiscard]] double bend(double r) const;
  /// slope(r) / (2 r), and 1 at zero: what a square would have to be weighted by for the same slope.
  [[nodiscard]] double weight(double r) const;

  /// The scale, in standard deviations of normal residuals, at which an estimate loses 5 % of its efficiency against
  /// squares (Holland and Welsch, 1977, table 2); of the absolute loss a tenth of one, for it is to be absolute.
  [[nodiscard]] double usual_scale() const;

  /// Reads `squares`, `huber:1.5`, `cauchy:2`. Throws InputError.
  [[nodiscard]] static Loss parse(std::string_view text);
  /// What `parse` reads.
  [[nodiscard]] std::string text() const;

  bool operator==(const Loss&) const = default;
};

} // namespace tanzen
