#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// The simplex method of Nelder and Mead (1965), in the form and with the order rules of Lagarias, Reeds,
/// Wright and Wright (1998, section 2), with coefficients that adapt to the dimension (Gao and Han, 2012,
/// equation 4.1). Points outside the bounds are moved onto them (Box, 1965). A simplex that has collapsed can be set up
/// anew around the best point, as small as a tenth of the first one and turned round (restarts; Kelley, 1999), which
/// goes on where it had collapsed before a minimum.
///
/// Cost: n values to begin; then 1 or 2 an iteration, n + 2 at a shrink. Memory: n + 4 vectors.
struct NelderMead {
  std::optional<double> size = {}; ///< edge of the first simplex; unset: a tenth of the region along each variable
  bool adaptive = true;
  double collapse = 1e-12; ///< done when the simplex is smaller than this, relative to each variable's size
  Index restarts = 0;      ///< most new simplices after a collapse; one that finds nothing better is the last

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
