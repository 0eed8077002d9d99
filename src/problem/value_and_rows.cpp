#include "tanzen/problem/value_and_rows.hpp"

namespace tanzen {

std::optional<Expressions> value_and_rows(const Problem& problem) {
  if (!problem.expression()) return std::nullopt;
  const Expression& whole = *problem.expression();
  const Expressions value(whole.shared_graph(), {whole.root()}, problem.variable_names());
  const std::size_t rows = problem.constraints().size();
  if (rows == 0) return value;
  if (!problem.expressions()) return std::nullopt;
  const Expressions& parts = *problem.expressions();
  const auto first = parts.roots().begin() + static_cast<std::ptrdiff_t>(problem.objectives().size());
  const Expressions of_rows(parts.shared_graph(), {first, first + static_cast<std::ptrdiff_t>(rows)},
                            problem.variable_names());
  return of_rows.inserted(0, value);
}

} // namespace tanzen
