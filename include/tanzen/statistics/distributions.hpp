#pragma once

namespace tanzen {

/// Quantiles and tails of the usual distributions. Degrees of freedom are above 0, parts between 0 and 1.

/// Where a part of a standard normal distribution lies below.
[[nodiscard]] double normal_quantile(double part);
/// Where a part of Student's t distribution lies below.
[[nodiscard]] double student_quantile(double degrees, double part);
/// Where a part of Fisher's F distribution lies below.
[[nodiscard]] double fisher_quantile(double above, double below, double part);
/// The chance of an F as large as that, or larger.
[[nodiscard]] double fisher_tail(double above, double below, double ratio);
/// The chance of a chi-squared as large as that, or larger.
[[nodiscard]] double chi_squared_tail(double degrees, double value);

} // namespace tanzen
