#include "commands.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/report/table.hpp"

#include "tanzen/search/outcome.hpp"

#include <memory>
#include <nlohmann/json.hpp>

namespace tanzen::cli {
namespace {

using Json = nlohmann::ordered_json;

std::string_view needs_text(Derivatives needs) {
  switch (needs) {
  case Derivatives::none: return "values only";
  case Derivatives::gradient: return "gradients, exact or by differences";
  case Derivatives::hessian: return "gradients and Hessians, exact or by differences";
  }
  return "";
}

/// What a method can handle besides one objective without limits, and what it is made for.
std::vector<std::string> abilities_of(const Abilities& able) {
  std::vector<std::string> words;
  if (able.bounds) words.emplace_back("bounds");
  if (able.inequalities) words.emplace_back("inequalities");
  if (able.equalities) words.emplace_back("equalities");
  if (able.residuals) words.emplace_back("residuals");
  if (able.fronts) words.emplace_back("several objectives");
  if (able.formula) words.emplace_back("a formula");
  if (able.most_variables == 1) words.emplace_back("one variable");
  return words;
}

std::string abilities_text(const Abilities& able) {
  const auto words = abilities_of(able);
  return words.empty() ? "no limits" : joined(words, ", ");
}

void list_methods(const Context& context) {
  Table table;
  for (const char* heading : {"name", "family", "handles", "what it is"}) table.column(heading, Table::Align::left);
  for (const Method& method : context.additions.methods.all()) {
    const MethodCard& card = method.card();
    table.row({method.name(), card.family.empty() ? "own" : card.family, abilities_text(card.able), card.title});
  }
  context.print("{}", table.text(context.width));
}

void print_card(const Context& context, const Method& method) {
  const MethodCard& card = method.card();
  context.print("  {}{}{}\n", method.name(), card.title.empty() ? "" : ": ", card.title);
  if (!card.summary.empty()) context.print("  {}\n", card.summary);
  context.print("\n{}", block_line("needs", needs_text(card.needs)));
  context.print("{}", block_line("handles", abilities_text(card.able)));
  if (!card.limits.empty()) context.print("{}", block_line("limits", card.limits));
  if (!card.source.empty()) context.print("{}", block_line("source", card.source));
  Table table;
  table.column("setting", Table::Align::left);
  table.column("value", Table::Align::left);
  table.column("may be", Table::Align::left);
  table.column("meaning", Table::Align::left);
  for (const auto& setting : method.settings())
    table.row({setting.name, setting.value, setting.range, setting.meaning});
  if (!table.empty()) context.print("\n{}", table.text(context.width));
}

Json method_json(const Method& method) {
  const MethodCard& card = method.card();
  Json settings = Json::array();
  for (const auto& setting : method.settings()) {
    settings.push_back(
        {{"name", setting.name}, {"value", setting.value}, {"range", setting.range}, {"meaning", setting.meaning}});
  }
  return {{"name", method.name()},
          {"title", card.title},
          {"family", card.family},
          {"source", card.source},
          {"limits", card.limits},
          {"needs", needs_text(card.needs)},
          {"handles", abilities_of(card.able)},
          {"settings", settings}};
}

struct MethodsOptions {
  std::string name;
  bool as_json = false;
};

} // namespace

void add_methods(const Command& command, Context& context) {
  auto options = std::make_shared<MethodsOptions>();
  command.takes("name", options->name, "NAME", "a method, with settings after a colon");
  command.flag("--json", options->as_json, "for machines");
  command.example("tanzen methods nelder-mead");
  command.does([options, &context] {
    const MethodCatalogue& methods = context.additions.methods;
    if (!options->name.empty()) {
      const Method method = methods.parse(options->name);
      if (options->as_json)
        context.print("{}\n", method_json(method).dump());
      else
        print_card(context, method);
    } else if (options->as_json) {
      Json list = Json::array();
      for (const Method& method : methods.all()) list.push_back(method_json(method));
      context.print("{}\n", list.dump());
    } else {
      list_methods(context);
    }
  });
}

} // namespace tanzen::cli
