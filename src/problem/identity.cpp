#include "tanzen/problem/definition.hpp"

#include "tanzen/base/text.hpp"

#include <bit>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// A digest of bytes (FNV-1a; Fowler, Noll and Vo, 1991): for telling changes, not for keeping secrets.
class Digest {
 public:
  void add(std::string_view bytes) {
    for (const char byte : bytes) {
      state_ ^= static_cast<unsigned char>(byte);
      state_ *= 0x100000001b3ULL;
    }
  }
  void add(double number) {
    const auto bits = std::bit_cast<std::array<char, sizeof number>>(number);
    add(std::string_view(bits.data(), bits.size()));
  }
  void add(std::uint64_t number) { add(std::bit_cast<double>(number)); }
  [[nodiscard]] std::string text() const { return fmt::format("{:016x}", state_); }

 private:
  std::uint64_t state_ = 0xcbf29ce484222325ULL;
};

std::string digest_of(const Expressions& expressions) {
  Digest digest;
  const Graph& graph = expressions.graph();
  for (NodeId id = 0; id < graph.size(); ++id) {
    const Node& node = graph.node(id);
    digest.add(std::uint64_t{static_cast<std::uint8_t>(node.operation)} << 32U | node.a);
    digest.add(std::uint64_t{node.b} << 32U | node.c);
  }
  for (const NodeId root : expressions.roots()) digest.add(std::uint64_t{root});
  return digest.text();
}

/// Numbers as a list where they are few and as a digest where they are many.
std::string numbers_text(const Vector& numbers) {
  constexpr Index most_shown = 12;
  if (numbers.size() > 0 && (numbers.array() == numbers[0]).all())
    return fmt::format("{} in {}", number_text(numbers[0]), counted(numbers.size(), "variable"));
  if (numbers.size() > most_shown) {
    Digest digest;
    for (const double number : numbers) digest.add(number);
    return "digest " + digest.text();
  }
  std::vector<std::string> texts;
  for (const double number : numbers) texts.push_back(number_text(number));
  return joined(texts, ", ");
}

std::string box_text(const Box& box) {
  return fmt::format("from {} to {}", numbers_text(box.lower), numbers_text(box.upper));
}

std::string table_text(const DataTable& table) {
  Digest digest;
  for (const double number : table.rows.reshaped()) digest.add(number);
  return fmt::format("{} of {}, digest {}", counted(table.rows.rows(), "row"), joined(table.columns, ", "),
                     digest.text());
}

void add_definition(const ProblemDefinition& definition, std::vector<IdentityLine>& lines) {
  for (const auto& [name, value] : definition.parameters) lines.push_back({"parameter " + name, number_text(value)});
  for (const NamedFormula& term : definition.terms) lines.push_back({"term " + term.name, term.text});
  if (definition.fit) {
    for (const FitEquation& each : definition.fit->equations) {
      lines.push_back({"residual", each.residual.empty() ? each.model : each.residual});
      lines.push_back({"errors", each.errors.empty() ? "none" : each.errors});
      if (!each.weights.empty()) lines.push_back({"squares' weights", each.weights});
    }
  }
  if (definition.program) lines.push_back({"program", joined(definition.program->command, " ")});
}

/// How the residuals count, whoever said it last.
void add_loss(const Problem& problem, std::vector<IdentityLine>& lines) {
  const auto* sum = dynamic_cast<const LossSum*>(problem.scalarization().get());
  if (sum == nullptr) return;
  lines.push_back({"loss", sum->loss().text()});
  Vector weights(problem.parts().residuals);
  for (Index k = 0; k < weights.size(); ++k) weights[k] = sum->weight(k);
  if (!(weights.array() == 1).all()) lines.push_back({"weights", numbers_text(weights)});
}

} // namespace

std::vector<IdentityLine> identity_of(const Problem& problem) {
  std::vector<IdentityLine> lines;
  for (const Objective& objective : problem.objectives()) {
    const char* sense = objective.sense == Sense::minimize ? "minimize" : "maximize";
    lines.push_back({"objective " + objective.name, fmt::format("{} {}", sense, objective.text)});
  }
  for (const Constraint& row : problem.constraints())
    lines.push_back({"constraint " + row.name,
                     fmt::format("{}, from {} to {}", row.text, number_text(row.lower), number_text(row.upper))});
  if (problem.definition()) add_definition(*problem.definition(), lines);
  add_loss(problem, lines);
  if (problem.exact().expressions())
    lines.push_back({"formulas", "digest " + digest_of(*problem.exact().expressions())});
  else if (!problem.definition())
    lines.push_back({"formulas", fmt::format("a function of {}", counted(problem.dimension(), "variable"))});
  if (problem.table()) lines.push_back({"data", table_text(*problem.table())});
  for (const Noise& noise : problem.noise()) lines.push_back({"noise", noise.text()});
  lines.push_back({"variables", problem.dimension() > 50 ? std::to_string(problem.dimension())
                                                         : joined(problem.variable_names(), ", ")});
  lines.push_back({"bounds", problem.bounds().any() ? box_text(problem.bounds().box()) : "none"});
  lines.push_back({"region", box_text(problem.region())});
  lines.push_back({"start", problem.start() ? numbers_text(*problem.start()) : "none"});
  return lines;
}

} // namespace tanzen
