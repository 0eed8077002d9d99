#pragma once

#include "tanzen/expression/expression.hpp"
#include "tanzen/problem/function.hpp"

#include <string>
#include <vector>

namespace tanzen {

/// Data: a column a quantity, a row an observation.
struct DataTable {
  std::vector<std::string> columns = {};
  Matrix rows = {}; ///< one row an observation

  /// The place of a column; throws InputError, with the nearest name, where there is none.
  [[nodiscard]] Index column(std::string_view name) const;
};

/// One residual for each row of a table: `row` is the residual as an expression of the parameters and then the columns.
/// One tape is run over blocks of rows; nothing is unrolled. Derivatives are by the parameters.
///
/// Cost: values as a batch of so many points; a gradient, a Jacobian or a Hessian product some 4 to 8 values a row.
/// Memory: the table, which is shared, and what comes out.
[[nodiscard]] FunctionPointer make_row_function(const Expression& row, std::shared_ptr<const DataTable> table);

} // namespace tanzen
