#include "tanzen/expression/symbolic.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// How tightly a text holds together: a part that binds less than its place needs parentheses.
enum class Binding { sum = 1, product = 2, sign = 3, power_base = 4, atom = 5 };

struct Text {
  std::string text;
  Binding binding = Binding::atom;
};

class Writer {
  using enum Binding;

 public:
  Writer(const Expression& expression, std::size_t longest)
      : graph_(expression.graph()), names_(expression.variable_names()), longest_(longest), texts_(graph_.size()) {}

  std::string write(NodeId root) {
    // Operands stand before what uses them: one pass in order needs no recursion, however deep the expression.
    std::vector<bool> needed(graph_.size(), false);
    needed[root] = true;
    for (std::size_t id = root + 1; id-- > 0;) {
      if (needed[id]) each_operand(static_cast<NodeId>(id), [&](NodeId operand) { needed[operand] = true; });
    }
    for (NodeId id = 0; id <= root; ++id) {
      if (!needed[id]) continue;
      texts_[id] = text_of(graph_.node(id));
      if (texts_[id].text.size() > longest_) {
        throw InputError(fmt::format("the expression is longer than {} characters when it is written out", longest_));
      }
    }
    return texts_[root].text;
  }

 private:
  template <class Visit>
  void each_operand(NodeId id, Visit&& visit) const {
    const Node& node = graph_.node(id);
    const NodeId operands[] = {node.a, node.b, node.c};
    for (int k = 0; k < operand_count(node.operation); ++k) visit(operands[k]);
  }

  [[nodiscard]] std::string placed(NodeId id, Binding needed) const {
    const Text& part = texts_[id];
    return part.binding < needed ? fmt::format("({})", part.text) : part.text;
  }

  [[nodiscard]] Text infix(const Node& node, const char* sign_text, Binding own, Binding right) const {
    return {placed(node.a, own) + sign_text + placed(node.b, right), own};
  }

  [[nodiscard]] Text number(double value) const {
    if (std::isnan(value)) return {"(0/0)", atom};
    if (std::isinf(value)) return {value > 0 ? "(1/0)" : "(-1/0)", atom};
    std::string text = number_text(value);
    return {std::move(text), std::signbit(value) ? sign : atom};
  }

  [[nodiscard]] std::string comparison(NodeId id) const {
    const Node& node = graph_.node(id);
    switch (node.operation) {
    case Operation::less: return placed(node.a, sum) + " < " + placed(node.b, sum);
    case Operation::less_equal: return placed(node.a, sum) + " <= " + placed(node.b, sum);
    case Operation::equal: return placed(node.a, sum) + " == " + placed(node.b, sum);
    default: return placed(id, sum) + " != 0";
    }
  }

  [[nodiscard]] Text text_of(const Node& node) const {
    switch (node.operation) {
    case Operation::constant: return number(node.constant());
    case Operation::variable: return {names_[node.variable()], atom};
    case Operation::negate: return {fmt::format("-{}", placed(node.a, power_base)), sign};
    case Operation::add: return infix(node, " + ", sum, product);
    case Operation::subtract: return infix(node, " - ", sum, product);
    case Operation::multiply: return infix(node, "*", product, sign);
    case Operation::divide: return infix(node, "/", product, sign);
    case Operation::power: return {placed(node.a, atom) + "^" + placed(node.b, sign), power_base};
    case Operation::select:
      return {fmt::format("if({}, {}, {})", comparison(node.a), texts_[node.b].text, texts_[node.c].text), atom};
    case Operation::less:
    case Operation::less_equal:
    case Operation::equal:
      return {fmt::format("if({} {} {}, 1, 0)", placed(node.a, sum),
                          node.operation == Operation::less    ? "<"
                          : node.operation == Operation::equal ? "=="
                                                               : "<=",
                          placed(node.b, sum)),
              atom};
    default: break;
    }
    const auto name = function_name(node.operation);
    if (operand_count(node.operation) == 1) return {fmt::format("{}({})", name, texts_[node.a].text), atom};
    return {fmt::format("{}({}, {})", name, texts_[node.a].text, texts_[node.b].text), atom};
  }

  const Graph& graph_;
  const std::vector<std::string>& names_;
  std::size_t longest_;
  std::vector<Text> texts_;
};

} // namespace

std::string to_formula(const Expression& expression, std::size_t longest) {
  return Writer(expression, longest).write(expression.root());
}

} // namespace tanzen
