#include "relation.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/numeric/constants.hpp"

#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// A text taken apart at its comparisons outside parentheses: `a`, `<`, `b`, and perhaps a second one.
struct SplitRelation {
  std::vector<std::string> sides;
  std::string signs; ///< of `<`, `>`, `=`
};

SplitRelation split_relation(std::string_view text) {
  SplitRelation parts;
  int depth = 0;
  std::size_t begin = 0;
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text[i] == '(' || text[i] == '[') ++depth;
    if (text[i] == ')' || text[i] == ']') --depth;
    if (depth != 0 || (text[i] != '<' && text[i] != '>' && text[i] != '=')) continue;
    parts.sides.emplace_back(text.substr(begin, i - begin));
    parts.signs += text[i];
    if (i + 1 < text.size() && text[i + 1] == '=') ++i;
    begin = i + 1;
  }
  parts.sides.emplace_back(text.substr(begin));
  if (parts.signs.empty())
    throw TextError("a constraint compares two values: write left <= right, left >= right or left = right", text,
                    text.size());
  if (parts.signs.size() > 2)
    throw TextError("a constraint has at most two comparisons: write lower <= value <= upper", text, begin - 1);
  if (parts.signs == "<>" || parts.signs == "><" ||
      (parts.signs.size() == 2 && parts.signs.find('=') != std::string::npos))
    throw TextError("two comparisons go the same way: write lower <= value <= upper", text, begin - 1);
  return parts;
}

/// Notes a limit that stands on the side `sign` of the expression: `expression sign limit`.
void limit(Constraint& row, char sign, double limit, std::string_view text) {
  if (std::isnan(limit)) throw TextError("the limit of this constraint is not a number", text, 0);
  if (sign != '>') row.upper = limit;
  if (sign != '<') row.lower = limit;
}

char turned(char sign) {
  return sign == '<' ? '>' : sign == '>' ? '<' : '=';
}

} // namespace

ParsedRelation parse_relation(std::string_view text, const FormulaScope& scope, Graph& graph) {
  const SplitRelation parts = split_relation(text);
  std::vector<Expr> sides;
  for (const std::string& side : parts.sides) sides.push_back(Formula::parse(side).build(graph, scope));
  Constraint row{.name = {}, .text = std::string(trimmed(text))};
  Expr value;
  if (sides.size() == 3) {
    if (!sides[0].is_constant() || !sides[2].is_constant())
      throw TextError("the outer sides of lower <= value <= upper must be numbers", text, 0);
    value = sides[1];
    limit(row, turned(parts.signs[0]), sides[0].constant(), text);
    limit(row, parts.signs[1], sides[2].constant(), text);
  } else if (sides[1].is_constant()) {
    value = sides[0];
    limit(row, parts.signs[0], sides[1].constant(), text);
  } else if (sides[0].is_constant()) {
    value = sides[1];
    limit(row, turned(parts.signs[0]), sides[0].constant(), text);
  } else {
    value = sides[0] - sides[1];
    limit(row, parts.signs[0], 0, text);
  }
  if (value.is_constant())
    throw TextError("this constraint compares numbers alone: no variable can change whether it holds", text, 0);
  if (row.lower > row.upper)
    throw TextError(
        fmt::format("the lower limit {} is above the upper one {}", number_text(row.lower), number_text(row.upper)),
        text, 0);
  return {std::move(row), value.node_in(graph)};
}

Constraint parse_limits(std::string_view text) {
  const std::string_view whole = trimmed(text);
  const auto number = [&](std::string_view part) {
    const auto read = read_number(trimmed(part));
    if (!read || std::isnan(*read))
      throw InputError(fmt::format("'{}' is no limit: write <= 0.2, >= 1, = 3 or 0.2 .. 0.8", clipped(text, 40)));
    return *read;
  };
  Constraint row{.name = {}, .text = std::string(whole)};
  if (const auto dots = whole.find(".."); dots != std::string_view::npos) {
    row.lower = number(whole.substr(0, dots));
    row.upper = number(whole.substr(dots + 2));
  } else if (whole.starts_with("<=")) {
    row.upper = number(whole.substr(2));
  } else if (whole.starts_with(">=")) {
    row.lower = number(whole.substr(2));
  } else {
    row.lower = row.upper = number(whole.starts_with('=') ? whole.substr(1) : std::string_view());
  }
  if (row.lower > row.upper || row.lower == infinity)
    throw InputError(fmt::format("'{}': the lower limit is above the upper one", clipped(text, 40)));
  return row;
}

} // namespace tanzen
