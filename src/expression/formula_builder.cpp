#include "tanzen/expression/formula.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include "formula_syntax.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <unordered_map>
#include <utility>

namespace tanzen {
namespace {

using detail::Relation;
using detail::Syntax;
using detail::SyntaxId;
using detail::SyntaxKind;
using detail::SyntaxNode;

/// Where the coordinates of the scope stand: single names, and vectors by their first coordinate.
struct CoordinateTable {
  struct Range {
    Index first = 0;
    Index count = 0;
  };
  std::unordered_map<std::string_view, Index> single; // the scope's own names
  std::unordered_map<std::string_view, Range> vectors;
  Index size = 0;

  explicit CoordinateTable(const FormulaScope& scope) {
    for (const VariableName& variable : scope.variables) {
      if (variable.count)
        vectors[variable.name] = {size, *variable.count};
      else
        single[variable.name] = size;
      size += variable.count.value_or(1);
    }
  }

  /// The coordinate with a name like `x` or `x12`.
  [[nodiscard]] std::optional<Index> find(std::string_view name) const {
    if (const auto found = single.find(name); found != single.end()) return found->second;
    const std::size_t digits = name.find_last_not_of("0123456789") + 1;
    if (digits == 0 || digits == name.size() || name[digits] == '0') return std::nullopt;
    const auto number = read_number(name.substr(digits));
    return number ? element(name.substr(0, digits), *number) : std::nullopt;
  }

  /// The coordinate `name`[number], counted from one.
  [[nodiscard]] std::optional<Index> element(std::string_view name, double number) const {
    const auto vector = vectors.find(name);
    if (vector != vectors.end()) {
      if (number < 1 || number > static_cast<double>(vector->second.count)) return std::nullopt;
      return vector->second.first + static_cast<Index>(number) - 1;
    }
    const auto found = single.find(fmt::format("{}{:.0f}", name, number));
    return found == single.end() ? std::nullopt : std::optional(found->second);
  }
};

/// Turns syntax into nodes of a graph, with the names of one scope.
class Builder {
 public:
  Builder(const TracedPoint& point, const FormulaScope& scope) : point_(point), scope_(scope), coordinates_(scope) {}

  Expr build_formula(const Syntax& syntax) {
    const Syntax* outer = std::exchange(syntax_, &syntax);
    std::vector<std::pair<std::string_view, double>> outer_indices = std::exchange(indices_, {});
    Expr built = build(syntax.root);
    indices_ = std::move(outer_indices);
    syntax_ = outer;
    return built;
  }

 private:
  [[noreturn]] void fail(const std::string& what, const SyntaxNode& at) const {
    throw TextError(what, syntax_->text, at.offset);
  }

  [[noreturn]] void fail_as_too_long(const SyntaxNode& at) const {
    fail(fmt::format("the formula grows beyond {} operations here", scope_.most_operations), at);
  }

  [[nodiscard]] SyntaxId child(const SyntaxNode& node, std::size_t k) const { return syntax_->children_of(node)[k].id; }

  Expr build(SyntaxId id) {
    const SyntaxNode& node = syntax_->nodes[id];
    if (++operations_ > scope_.most_operations) fail_as_too_long(node);
    switch (node.kind) {
    case SyntaxKind::number: return node.number;
    case SyntaxKind::name: return named(node);
    case SyntaxKind::element: return element(node);
    case SyntaxKind::chain_sum: return chain(node, Operation::add, Operation::subtract);
    case SyntaxKind::chain_mul: return chain(node, Operation::multiply, Operation::divide);
    case SyntaxKind::negative: return -build(child(node, 0));
    case SyntaxKind::power: return pow(build(child(node, 0)), build(child(node, 1)));
    case SyntaxKind::call: return call(node);
    case SyntaxKind::comparison: break; // a condition builds it
    case SyntaxKind::condition: return conditional(node);
    case SyntaxKind::sum: return series(node, Operation::add, 0);
    case SyntaxKind::product: return series(node, Operation::multiply, 1);
    }
    fail("a comparison is no number", node);
  }

  Expr chain(const SyntaxNode& node, Operation direct, Operation inverse) {
    const auto links = syntax_->children_of(node);
    Expr total = build(links.front().id);
    for (const auto& link : links.subspan(1)) total = apply(link.inverse ? inverse : direct, total, build(link.id));
    return total;
  }

  Expr call(const SyntaxNode& node) {
    Expr first = build(child(node, 0));
    if (node.children == 1) {
      const bool smallest_of_one = operand_count(node.operation) == 2;
      return smallest_of_one ? first : apply(node.operation, first);
    }
    for (std::size_t k = 1; k < node.children; ++k) first = apply(node.operation, first, build(child(node, k)));
    return first;
  }

  Expr conditional(const SyntaxNode& node) {
    const SyntaxNode& comparison = syntax_->nodes[child(node, 0)];
    const Condition condition = compared(comparison.relation, build(child(comparison, 0)), build(child(comparison, 1)));
    // What is decided already needs only one branch: x[i-1] may be absent where i is 1.
    if (condition.indicator().is_constant()) {
      return build(child(node, condition.indicator().constant() != 0 ? 1 : 2));
    }
    const Expr held = build(child(node, 1));
    return choose(condition, held, build(child(node, 2)));
  }

  static Condition compared(Relation relation, const Expr& left, const Expr& right) {
    switch (relation) {
    case Relation::less: return left < right;
    case Relation::less_equal: return left <= right;
    case Relation::greater: return left > right;
    case Relation::greater_equal: return left >= right;
    case Relation::equal: return left == right;
    case Relation::not_equal: break;
    }
    return left != right;
  }

  Expr series(const SyntaxNode& node, Operation operation, double empty) {
    const double first = whole_number(child(node, 0), "an end of an index");
    const double last = whole_number(child(node, 1), "an end of an index");
    // Each part is an operation at least: what cannot come to its end is not begun.
    const double least = static_cast<double>(operations_) + (last - first + 1);
    if (least > static_cast<double>(scope_.most_operations)) fail_as_too_long(syntax_->nodes[child(node, 2)]);
    Expr total = empty;
    indices_.emplace_back(node.text, first);
    for (double i = first; i <= last; ++i) {
      indices_.back().second = i;
      const Expr part = build(child(node, 2));
      total = i == first ? part : apply(operation, total, part);
    }
    indices_.pop_back();
    return total;
  }

  double whole_number(SyntaxId id, std::string_view what) {
    const Expr number = build(id);
    const SyntaxNode& node = syntax_->nodes[id];
    if (!number.is_constant()) fail(fmt::format("{} must be a known whole number, not a variable", what), node);
    const double value = number.constant();
    if (!(std::abs(value) <= 1e9) || value != std::round(value)) {
      fail(fmt::format("{} must be a whole number of at most 1e9; found {}", what, number_text(value)), node);
    }
    return value;
  }

  const Expr& coordinate(Index k) { return point_[k]; }

  Expr named(const SyntaxNode& node) {
    for (auto index = indices_.rbegin(); index != indices_.rend(); ++index) {
      if (index->first == node.text) return index->second;
    }
    // What is no index means the same each time that a series comes by.
    const auto known = meanings_.find(&node);
    return known != meanings_.end() ? known->second : meanings_.emplace(&node, meaning_of(node)).first->second;
  }

  Expr meaning_of(const SyntaxNode& node) {
    const std::string name(node.text);
    if (const auto parameter = scope_.parameters.find(name); parameter != scope_.parameters.end()) {
      return parameter->second;
    }
    if (const auto term = scope_.terms.find(name); term != scope_.terms.end()) return built_term(node, term->second);
    if (const auto k = coordinates_.find(name)) return coordinate(*k);
    if (const auto constant = detail::find_constant(name)) return *constant;
    if (name == detail::dimension_name) return static_cast<double>(coordinates_.size);
    if (coordinates_.vectors.contains(name)) {
      fail(fmt::format("'{}' is a vector of {}; name an element, as in {}[1]", name,
                       coordinates_.vectors.at(name).count, name),
           node);
    }
    fail(fmt::format("there is no variable or parameter '{}'{}", clipped(name, 40), did_you_mean(name, known_names())),
         node);
  }

  Expr built_term(const SyntaxNode& node, const Formula& term) {
    const std::string name(node.text);
    if (const auto built = terms_.find(name); built != terms_.end()) return built->second;
    if (std::ranges::find(open_terms_, name) != open_terms_.end()) {
      fail(fmt::format("the term '{}' is defined by itself", name), node);
    }
    constexpr std::size_t deepest = 200;
    if (open_terms_.size() >= deepest) fail(fmt::format("terms stand in terms more than {} deep", deepest), node);
    open_terms_.push_back(name);
    const Expr built = build_formula(term.syntax());
    open_terms_.pop_back();
    terms_.emplace(name, built);
    return built;
  }

  Expr element(const SyntaxNode& node) {
    const double number = whole_number(child(node, 0), "an index");
    if (const auto k = coordinates_.element(node.text, number)) return coordinate(*k);
    const std::string name(node.text);
    const SyntaxNode& index = syntax_->nodes[child(node, 0)];
    if (const auto vector = coordinates_.vectors.find(name); vector != coordinates_.vectors.end()) {
      fail(fmt::format("{0}[{1}] is outside {0}[1] to {0}[{2}]", name, number_text(number), vector->second.count),
           index);
    }
    const bool has_elements = coordinates_.single.contains(name + "1");
    if (has_elements)
      fail(fmt::format("there is no variable {}[{}]; elements count from 1", name, number_text(number)), index);
    fail(fmt::format("'{}' is no vector{}", clipped(name, 40), did_you_mean(name, known_names())), node);
  }

  [[nodiscard]] std::vector<std::string> known_names() const {
    std::vector<std::string> names{"pi", "e", std::string(detail::dimension_name)};
    for (const auto& variable : scope_.variables) names.push_back(variable.name);
    for (const auto& [name, value] : scope_.parameters) names.push_back(name);
    for (const auto& [name, term] : scope_.terms) names.push_back(name);
    return names;
  }

  const TracedPoint& point_;
  const FormulaScope& scope_;
  CoordinateTable coordinates_;
  const Syntax* syntax_ = nullptr;
  std::vector<std::pair<std::string_view, double>> indices_;
  std::unordered_map<const SyntaxNode*, Expr> meanings_;
  std::map<std::string, Expr> terms_;
  std::vector<std::string> open_terms_;
  long long operations_ = 0;
};

} // namespace

std::vector<std::string> FormulaScope::coordinate_names() const {
  std::vector<std::string> names;
  for (const VariableName& variable : variables) {
    if (!variable.count) names.push_back(variable.name);
    for (Index i = 1; i <= variable.count.value_or(0); ++i) names.push_back(fmt::format("{}{}", variable.name, i));
  }
  return names;
}

Expr Formula::build(const TracedPoint& coordinates, const FormulaScope& scope) const {
  return Builder(coordinates, scope).build_formula(*syntax_);
}

Expr Formula::build(Graph& graph, const FormulaScope& scope) const {
  return build(TracedPoint(graph), scope);
}

Expression Formula::expression(const FormulaScope& scope) const {
  std::vector<std::string> names = scope.coordinate_names();
  auto graph = std::make_shared<Graph>(names.size());
  const NodeId root = build(*graph, scope).node_in(*graph);
  return {std::move(graph), root, std::move(names)};
}

} // namespace tanzen
