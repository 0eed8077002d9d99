#pragma once

#include "tanzen/numeric/vector.hpp"

#include <string_view>

namespace tanzen::testbed {

/// What a fit of the testbed comes to, computed in arithmetic of 60 digits by `scripts/certified_fits.py` and rounded.
struct CertifiedFit {
  std::string_view name = {};
  double sum = 0;         ///< of squares, the least
  double residual_sd = 0; ///< the root of the sum over the degrees of freedom
  Vector parameters = {};
  Vector errors = {}; ///< standard errors: the roots of the diagonal of residual_sd^2 (J'J)^-1
};

/// Null where there is none of that name.
[[nodiscard]] const CertifiedFit* certified_fit(std::string_view name);

} // namespace tanzen::testbed
