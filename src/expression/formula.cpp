#include "tanzen/expression/formula.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include "formula_syntax.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace tanzen {
namespace {

using detail::Syntax;
using detail::SyntaxId;
using detail::SyntaxKind;
using detail::SyntaxNode;

constexpr double longest_vector = 1e6;

/// Collects the names that stand for variables, each once.
class NameCollector {
 public:
  NameCollector(const Syntax& syntax, std::span<const std::string> known)
      : syntax_(syntax), known_(known.begin(), known.end()) {}

  std::vector<VariableName> collect() {
    visit(syntax_.root);
    std::vector<std::string> sorted(names_.begin(), names_.end());
    std::ranges::sort(sorted, natural_less);
    std::vector<VariableName> variables;
    for (std::string& name : sorted) variables.push_back({std::move(name), std::nullopt});
    return variables;
  }

 private:
  void visit(SyntaxId id) {
    const SyntaxNode& node = syntax_.nodes[id];
    if (node.kind == SyntaxKind::name) add_name(node);
    if (node.kind == SyntaxKind::element) add_elements(node);
    const bool is_series = node.kind == SyntaxKind::sum || node.kind == SyntaxKind::product;
    if (is_series) indices_.emplace_back(node.text);
    for (const auto& child : syntax_.children_of(node)) visit(child.id);
    if (is_series) indices_.pop_back();
  }

  [[nodiscard]] bool stands_for_something(std::string_view name) const {
    return known_.contains(std::string(name)) || detail::find_constant(name) || name == detail::dimension_name ||
           std::ranges::find(indices_, name) != indices_.end();
  }

  void add_name(const SyntaxNode& node) {
    if (!stands_for_something(node.text)) names_.emplace(node.text);
  }

  void add_elements(const SyntaxNode& node) {
    if (stands_for_something(node.text)) return;
    const SyntaxNode& index = syntax_.nodes[syntax_.children_of(node)[0].id];
    if (index.kind != SyntaxKind::number) {
      throw TextError(
          fmt::format("the index of '{0}' varies, so say how long {0} is: declare it as {0}[10], for example",
                      node.text),
          syntax_.text, node.offset);
    }
    const double count = index.number;
    if (count < 1 || count > longest_vector || count != std::round(count)) {
      throw TextError(fmt::format("an index counts from 1, in whole numbers; found {}", number_text(count)),
                      syntax_.text, index.offset);
    }
    for (Index i = 1; i <= static_cast<Index>(count); ++i) names_.insert(fmt::format("{}{}", node.text, i));
  }

  const Syntax& syntax_;
  std::set<std::string> known_;
  std::set<std::string> names_;
  std::vector<std::string_view> indices_;
};

} // namespace

std::optional<std::string> why_no_name(std::string_view text) {
  if (text.empty()) return "a name is missing";
  if (!detail::starts_name(text.front()) || !std::ranges::all_of(text, detail::continues_name)) {
    return fmt::format("'{}' is no name: names are letters, digits and '_' and start with a letter", clipped(text, 40));
  }
  const auto& callable = detail::callable_names();
  const bool is_callable = std::ranges::find(callable, text) != callable.end();
  // A constant gives way to a name that somebody chose, as to the column of a table.
  if (is_callable || text == detail::dimension_name) {
    return fmt::format("'{}' has a meaning of its own in formulas and cannot name a variable", text);
  }
  return std::nullopt;
}

VariableName VariableName::parse(std::string_view text) {
  text = trimmed(text);
  VariableName variable;
  const std::size_t opened = text.find('[');
  variable.name = std::string(trimmed(text.substr(0, opened)));
  if (const auto why = why_no_name(variable.name)) throw InputError(*why);
  if (opened == std::string_view::npos) return variable;
  const auto count =
      text.ends_with(']') ? read_number(text.substr(opened + 1, text.size() - opened - 2)) : std::nullopt;
  if (!count || *count < 1 || *count > longest_vector || *count != std::round(*count)) {
    throw InputError(
        fmt::format("'{}' is no variable: write a name, or a name with a length as in x[10]", clipped(text, 40)));
  }
  variable.count = static_cast<Index>(*count);
  return variable;
}

Formula Formula::parse(std::string_view text) {
  auto syntax = std::make_shared<Syntax>();
  syntax->text = text;
  detail::parse(*syntax);
  return Formula(std::move(syntax));
}

const std::string& Formula::text() const {
  return syntax_->text;
}

std::vector<VariableName> Formula::variables(std::span<const std::string> known) const {
  std::vector<VariableName> found = NameCollector(*syntax_, known).collect();
  if (found.empty()) {
    throw TextError("the formula has no variable: nothing in it could be varied", syntax_->text, 0);
  }
  return found;
}

} // namespace tanzen
