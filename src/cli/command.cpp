#include "command.hpp"

#include "help.hpp"

#include "tanzen/base/errors.hpp"
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

std::vector<std::string> command_names(const CLI::App& command) {
  std::vector<std::string> names;
  for (const CLI::App* each : command.get_subcommands([](const CLI::App*) { return true; }))
    names.push_back(each->get_name());
  return names;
}

/// The innermost command that was named.
const CLI::App& used_command(const CLI::App& program) {
  const auto used = program.get_subcommands();
  return used.empty() ? program : used_command(*used.front());
}

/// What the parser found wrong, in our words.
std::string complaint_of(const CLI::ParseError& error, const CLI::App& command, const ExtraWord& extra_word) {
  const auto rest = command.remaining(true);
  const std::string name = full_name(command);
  const std::vector<std::string> commands = command_names(command);
  const std::string word = rest.empty() ? "" : rest.front();
  const bool needs_command = command.get_require_subcommand_min() > 0 && command.get_subcommands().empty();
  if (needs_command && rest.empty()) return fmt::format("{} needs a command: one of {}", name, joined(commands, ", "));
  if (needs_command && !is_option(word))
    return fmt::format("{} has no command '{}'{}", name, clipped(word, 40), did_you_mean(word, commands));
  if (dynamic_cast<const CLI::ExtrasError*>(&error) != nullptr && !rest.empty()) {
    // `campaign merg a b`: what was taken for a word of the command's own was a command under it, misspelt.
    for (const CLI::Option* option : command.get_options()) {
      const bool is_word = !option->nonpositional() && option->count() > 0;
      if (const auto meant = is_word ? nearest_name(option->results().front(), commands) : std::nullopt)
        return fmt::format("{} does not know what to do with '{}'; did you mean '{} {}'?", name, clipped(word, 40),
                           name, *meant);
    }
    if (!is_option(word))
      return fmt::format("{} does not know what to do with '{}'{}", name, clipped(word, 40),
                         extra_word ? extra_word(word, option_names(command)) : "");
    const std::string bare = word.substr(0, word.find('='));
    return fmt::format("{} has no option '{}'{}", name, clipped(bare, 40), did_you_mean(bare, option_names(command)));
  }
  return fmt::format("{}: {}", name, error.what());
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
    : Program(std::make_unique<CLI::App>(what, name), version) {
  own_->set_version_flag("--version", version, "print the version");
}
Program::Program(std::unique_ptr<CLI::App> app, std::string version)
    : Command(*app), own_(std::move(app)), version_(std::move(version)) {}
Program::~Program() = default;

void Program::explains_extra_words(ExtraWord explain) {
  extra_word_ = std::move(explain);
}

std::string Program::help(const std::vector<std::string>& words) const {
  const CLI::App* command = own_.get();
  for (const std::string& word : words) {
    const auto under = command->get_subcommands([&](const CLI::App* each) { return each->get_name() == word; });
    if (under.empty())
      throw InputError(fmt::format("{} has no command '{}'{}", full_name(*command), clipped(word, 40),
                                   did_you_mean(word, command_names(*command))));
    command = under.front();
  }
  return help_text(*command);
}

std::string Program::manual() const {
  return manual_page(*own_, version_);
}
std::string Program::completion() const {
  return completion_script(*own_);
}

Program::Answer Program::parse(int count, const char* const* words) {
  try {
    own_->parse(count, words);
    return {};
  } catch (const CLI::CallForVersion& asked) {
    return {.help = fmt::format("{} {}\n", own_->get_name(), asked.what())};
  } catch (const CLI::Success&) {
    return {.help = help_text(used_command(*own_))};
  } catch (const CLI::ParseError& error) {
    const CLI::App& command = used_command(*own_);
    return {.complaint = complaint_of(error, command, extra_word_), .see = full_name(command) + " --help"};
  }
}

} // namespace tanzen::cli
