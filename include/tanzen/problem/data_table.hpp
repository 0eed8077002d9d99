#pragma once

#include "tanzen/expression/expression.hpp"
#include "tanzen/problem/function.hpp"

#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// Data: a column a quantity, a row an observation.
struct DataTable {
  std::vector<std::string> columns = {};
  Matrix rows = {}; ///< one row an observation

  /// The place of a column; throws InputError, with the nearest name, where there is none.
  [[nodiscard]] Index column(std::string_view name) const;
};

/// Residuals of each row of a table: `rows` are they as expressions of the parameters and then the columns; with
/// several the k-th of row r is output r * size + k. One tape is run over blocks of rows, forwards and back; nothing is
/// unrolled. Derivatives are by the parameters.
///
/// Cost: values as a batch of so many points; a gradient or a Jacobian some two more; a Hessian product some 8 values a
/// row. Memory: the table, which is shared, and what comes out.
[[nodiscard]] FunctionPointer make_row_function(const Expressions& rows, std::shared_ptr<const DataTable> table);

} // namespace tanzen
