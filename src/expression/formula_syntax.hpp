#pragma once

#include "tanzen/expression/operation.hpp"

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen::detail {

/// What a piece of a formula's text is.
enum class SyntaxKind : std::uint8_t {
  number,     ///< `number`
  name,       ///< `text`
  element,    ///< `text`[child 0]
  chain_sum,  ///< children added; where `inverse` holds, subtracted
  chain_mul,  ///< children multiplied; where `inverse` holds, divided
  negative,   ///< - child 0
  power,      ///< child 0 ^ child 1
  call,       ///< `operation`(children)
  comparison, ///< child 0 `relation` child 1
  condition,  ///< if(child 0, child 1, child 2)
  sum,        ///< sum(`text` = child 0 .. child 1, child 2)
  product,    ///< product(`text` = child 0 .. child 1, child 2)
};

enum class Relation : std::uint8_t { less, less_equal, greater, greater_equal, equal, not_equal };

using SyntaxId = std::uint32_t;

/// A link of a chain of terms or factors, or an operand.
struct SyntaxChild {
  SyntaxId id = 0;
  bool inverse = false;
};

struct SyntaxNode {
  SyntaxKind kind = SyntaxKind::number;
  Operation operation = Operation::constant;
  Relation relation = Relation::less;
  double number = 0;
  std::string_view text = {}; ///< borrows the syntax's text
  std::size_t offset = 0;     ///< where the text of this piece begins
  std::uint32_t first_child = 0;
  std::uint32_t children = 0;
};

/// A parsed formula: pieces in the order that they were finished, so children before parents; flat, so that
/// long chains need no deep recursion.
struct Syntax {
  std::string text;
  std::vector<SyntaxNode> nodes;
  std::vector<SyntaxChild> children;
  SyntaxId root = 0;

  [[nodiscard]] std::span<const SyntaxChild> children_of(const SyntaxNode& node) const {
    return std::span(children).subspan(node.first_child, node.children);
  }
};

/// Fills `syntax` from its text; throws TextError.
void parse(Syntax& syntax);

/// The function of that name; none where there is no such function.
[[nodiscard]] std::optional<Operation> find_function(std::string_view name);

/// All names that can be called, `if`, `sum` and `product` among them.
[[nodiscard]] const std::vector<std::string>& callable_names();

/// `pi` and `e`.
[[nodiscard]] std::optional<double> find_constant(std::string_view name);

[[nodiscard]] bool starts_name(char c);
[[nodiscard]] bool continues_name(char c);

/// The name of formulas for the number of variables.
inline constexpr std::string_view dimension_name = "n";

} // namespace tanzen::detail
