#pragma once

#include "tanzen/expression/expression.hpp"

#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace tanzen {

class Formula;

/// A variable as it is declared: `x` is one number, `x[10]` a vector of ten, read as x[1] to x[10].
struct VariableName {
  std::string name = {};
  std::optional<Index> count = {};

  /// Reads `x` or `x[10]`; throws InputError otherwise.
  [[nodiscard]] static VariableName parse(std::string_view text);
};

/// What the names of a formula stand for.
struct FormulaScope {
  std::vector<VariableName> variables = {};      ///< in the order of the point's coordinates
  std::map<std::string, double> parameters = {}; ///< names with a fixed value
  std::map<std::string, Formula> terms = {};     ///< names for parts, used above and below
  long long most_operations = 10'000'000;        ///< that a formula may expand to

  /// One name for each coordinate: a vector x of 3 gives x1, x2, x3.
  [[nodiscard]] std::vector<std::string> coordinate_names() const;
};

namespace detail {
struct Syntax;
}

/// A formula's text, read and found well-formed. Text to be parsed, never code to be run.
///
/// Infix `+ - * / ^` (`-x^2` is `-(x^2)`, `2^3^2` is `2^(3^2)`), parentheses, numbers, `pi`, `e`, functions by
/// name, `if(x < 0, a, b)`, `sum(i = 1..n, ...)` and `product(...)`; `n` is the number of variables, `x[i]`
/// counts from one and `x1` is short for `x[1]`. Nesting is limited to 1,000, a text to 4 MiB, what it expands to
/// to the operations that its scope allows. Every error is a TextError that points at the character.
class Formula {
 public:
  [[nodiscard]] static Formula parse(std::string_view text);

  [[nodiscard]] const std::string& text() const;
  /// What was read, for the parts of this room.
  [[nodiscard]] const detail::Syntax& syntax() const { return *syntax_; }

  /// The names that are no function, constant, index or among `known`, in natural order (x2 before x10).
  /// `x[3]` counts as the variables x1, x2 and x3. Throws TextError where there are none.
  [[nodiscard]] std::vector<VariableName> variables(std::span<const std::string> known = {}) const;

  /// Builds the formula in a graph whose variables are the coordinates of the scope.
  [[nodiscard]] Expr build(Graph& graph, const FormulaScope& scope) const;
  /// Builds it of any expressions that stand for the coordinates of the scope.
  [[nodiscard]] Expr build(const TracedPoint& coordinates, const FormulaScope& scope) const;

  /// The formula as an expression of its own.
  [[nodiscard]] Expression expression(const FormulaScope& scope) const;

 private:
  explicit Formula(std::shared_ptr<const detail::Syntax> syntax) : syntax_(std::move(syntax)) {}

  std::shared_ptr<const detail::Syntax> syntax_;
};

/// Whether a text can name a variable, parameter or term: letters, digits and `_`, not starting with a
/// digit, and not a word that formulas use themselves. The answer is a reason why not, or nothing.
[[nodiscard]] std::optional<std::string> why_no_name(std::string_view text);

} // namespace tanzen
