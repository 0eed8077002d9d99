#include "command.hpp"

#include "tanzen/base/text.hpp"

#include <CLI/App.hpp>
#include <CLI/Config.hpp>
#include <CLI/Formatter.hpp>
#include <fmt/format.h>

namespace tanzen::cli {
namespace {

bool is_option(const std::string& name) {
  return name.starts_with("-");
}

/// Every option of a command, as it is written.
std::vector<std::string> option_names(const CLI::App& command) {
  std::vector<std::string> names;
  for (const CLI::Option* option : command.get_options()) {
    for (const std::string& name : option->get_lnames()) names.push_back("--" + name);
  }
  return names;
}

/// What the parser found wrong, in our words.
std::string complaint_of(const CLI::ParseError& error, const CLI::App& program) {
  const auto used = program.get_subcommands();
  const CLI::App& command = used.empty() ? program : *used.front();
  const auto rest = command.remaining(true);
  if (used.empty()) {
    std::vector<std::string> commands;
    for (const CLI::App* each : program.get_subcommands([](const CLI::App*) { return true; }))
      commands.push_back(each->get_name());
    if (rest.empty()) return "a command is needed: one of " + joined(commands, ", ");
    return fmt::format("there is no command '{}'{}", clipped(rest.front(), 40), did_you_mean(rest.front(), commands));
  }
  if (dynamic_cast<const CLI::ExtrasError*>(&error) != nullptr && !rest.empty()) {
    const std::string& word = rest.front();
    if (!word.starts_with("-"))
      return fmt::format("{} does not know what to do with '{}'", command.get_name(), clipped(word, 40));
    const std::string bare = word.substr(0, word.find('='));
    return fmt::format("{} has no option '{}'{}", command.get_name(), clipped(bare, 40),
                       did_you_mean(bare, option_names(command)));
  }
  return error.what();
}

} // namespace

Command Command::command(const std::string& name, const std::string& what) const {
  return Command(*app_->add_subcommand(name, what));
}
void Command::needs_command() const {
  app_->require_subcommand(1);
}
bool Command::has_command() const {
  return !app_->get_subcommands().empty();
}

void Command::takes(const std::string& name, std::string& target, Type type, const std::string& help) const {
  app_->add_option(name, target, help)->type_name(type);
}
void Command::takes(const std::string& name, std::optional<std::string>& target, Type type,
                    const std::string& help) const {
  reads(name, type, help, [&target](const std::string& word) { target = word; });
}
void Command::takes(const std::string& name, std::vector<std::string>& target, Type type,
                    const std::string& help) const {
  app_->add_option(name, target, help)->type_name(type)->allow_extra_args(!is_option(name));
}
void Command::needs(const std::string& name, std::string& target, Type type, const std::string& help) const {
  app_->add_option(name, target, help)->type_name(type)->required();
}
void Command::needs(const std::string& name, std::vector<std::string>& target, Type type,
                    const std::string& help) const {
  app_->add_option(name, target, help)->type_name(type)->allow_extra_args(!is_option(name))->required();
}
void Command::reads(const std::string& name, Type type, const std::string& help,
                    std::function<void(const std::string&)> read) const {
  app_->add_option_function<std::string>(name, std::move(read), help)->type_name(type);
}
void Command::flag(const std::string& name, bool& target, const std::string& help) const {
  app_->add_flag(name, target, help);
}
void Command::flag_either(const std::string& name, bool& target, const std::string& help, const std::string& other,
                          bool& other_target, const std::string& other_help) const {
  auto* first = app_->add_flag(name, target, help);
  app_->add_flag(other, other_target, other_help)->excludes(first);
}
void Command::last_line(const std::string& text) const {
  app_->footer(text);
}
void Command::does(std::function<void()> action) const {
  app_->callback(std::move(action));
}

Program::Program(const std::string& name, const std::string& what, const std::string& version)
    : Program(std::make_unique<CLI::App>(what, name)) {
  own_->set_version_flag("--version", version, "print the version");
}
Program::Program(std::unique_ptr<CLI::App> app) : Command(*app), own_(std::move(app)) {}
Program::~Program() = default;

Program::Answer Program::parse(int count, const char* const* words) {
  const auto used = [&]() -> const CLI::App* {
    const auto commands = own_->get_subcommands();
    return commands.empty() ? nullptr : commands.front();
  };
  try {
    own_->parse(count, words);
    return {};
  } catch (const CLI::CallForVersion& asked) {
    return {.help = fmt::format("{} {}\n", own_->get_name(), asked.what())};
  } catch (const CLI::Success&) {
    return {.help = used() ? used()->help() : own_->help()};
  } catch (const CLI::ParseError& error) {
    return {.complaint = complaint_of(error, *own_),
            .see = fmt::format("{} {}--help", own_->get_name(), used() ? used()->get_name() + " " : "")};
  }
}

} // namespace tanzen::cli
