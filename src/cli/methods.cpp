#include "commands.hpp"
#include "table.hpp"

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

void list_methods(const Context& context) {
  Table table;
  for (const char* heading : {"name", "family", "bounds", "what it is"}) table.column(heading, Table::Align::left);
  for (const Method& method : context.additions.methods.all()) {
    const MethodCard& card = method.card();
    table.row(
        {method.name(), card.family.empty() ? "own" : card.family, card.bounds.empty() ? "no" : "yes", card.title});
  }
  context.print("{}", table.text());
}

void print_card(const Context& context, const Method& method) {
  const MethodCard& card = method.card();
  context.print("  {}{}{}\n", method.name(), card.title.empty() ? "" : ": ", card.title);
  if (!card.summary.empty()) context.print("  {}\n", card.summary);
  context.print("\n{}", block_line("needs", needs_text(card.needs)));
  context.print("{}", block_line("bounds", card.bounds.empty() ? "cannot keep within them" : card.bounds));
  if (!card.source.empty()) context.print("{}", block_line("source", card.source));
  Table table;
  table.column("setting", Table::Align::left);
  table.column("value", Table::Align::left);
  table.column("may be", Table::Align::left);
  table.column("meaning", Table::Align::left);
  for (const auto& setting : method.settings())
    table.row({setting.name, setting.value, setting.range, setting.meaning});
  if (!table.empty()) context.print("\n{}", table.text());
}

Json method_json(const Method& method) {
  const MethodCard& card = method.card();
  Json settings = Json::array();
  for (const auto& setting : method.settings()) {
    settings.push_back(
        {{"name", setting.name}, {"value", setting.value}, {"range", setting.range}, {"meaning", setting.meaning}});
  }
  return {{"name", method.name()}, {"title", card.title},   {"family", card.family},
          {"source", card.source}, {"bounds", card.bounds}, {"needs", needs_text(card.needs)},
          {"settings", settings}};
}

struct MethodsOptions {
  std::string name;
  bool as_json = false;
};

} // namespace

void add_methods(CLI::App& program, Context& context) {
  auto* command = program.add_subcommand("methods", "the methods: a list, or the card of one with its settings");
  auto options = std::make_shared<MethodsOptions>();
  command->add_option("name", options->name, "a method, with settings after a colon")->type_name("NAME");
  command->add_flag("--json", options->as_json, "for machines");
  command->footer("Example: tanzen methods nelder-mead");
  command->callback([options, &context] {
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
