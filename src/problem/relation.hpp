#pragma once

#include "tanzen/expression/formula.hpp"
#include "tanzen/problem/problem.hpp"

#include <string_view>

namespace tanzen {

/// What a relation says: lower <= value <= upper, as a row without a name.
struct ParsedRelation {
  Constraint row;
  NodeId value;
};

/// Reads a constraint, written any way round: `a <= b`, `a >= b`, `a = b`, `0.2 <= a <= 0.8`, with variables on both
/// sides. A side that is a number becomes the limit; otherwise the limit is 0 of the difference. `graph` has the
/// scope's coordinates, and is built on. Throws TextError.
[[nodiscard]] ParsedRelation parse_relation(std::string_view text, const FormulaScope& scope, Graph& graph);

/// Reads the limits alone: `<= 0.2`, `>= 1`, `= 3`, `0.2 .. 0.8`. Throws InputError.
[[nodiscard]] Constraint parse_limits(std::string_view text);

} // namespace tanzen
