#pragma once

#include "tanzen/numeric/vector.hpp"

#include <functional>

namespace testing {

using ScalarFunction = std::function<double(const tanzen::Vector&)>;

/// A number and how exact it is by its own account.
struct Difference {
  double value;
  double error; ///< the change between three neighbouring step lengths
};

/// The derivative along one variable by central differences of eighth order (Fornberg, 1988, table 1), over a range of
/// steps; the one where three neighbouring steps agree best.
[[nodiscard]] Difference eighth_order_difference(const ScalarFunction& function, const tanzen::Vector& x,
                                                 tanzen::Index i);

} // namespace testing
