#include "help.hpp"

#include "tanzen/base/text.hpp"

#include <CLI/App.hpp>
#include <CLI/Config.hpp>
#include <CLI/Formatter.hpp>
#include <fmt/format.h>

namespace tanzen::cli {
namespace {

constexpr std::size_t help_width = 80, meaning_column = 28;

std::vector<const CLI::App*> commands_under(const CLI::App& command) {
  return command.get_subcommands([](const CLI::App*) { return true; });
}

bool is_positional(const CLI::Option& option) {
  return !option.nonpositional();
}

/// `--from POINT`, `PROBLEM ...`.
std::string written(const CLI::Option& option) {
  const bool is_flag = option.get_items_expected_max() == 0;
  const std::string several = option.get_items_expected_max() > 1 ? " ..." : "";
  if (is_positional(option)) return option.get_type_name() + several;
  std::string text;
  for (const std::string& name : option.get_snames()) text += "-" + name + ", ";
  text += "--" + option.get_lnames().front();
  return is_flag ? text : fmt::format("{} {}{}", text, option.get_type_name(), several);
}

/// A name, and what it means, under itself where it is long.
std::string entry(const std::string& name, const std::string& meaning) {
  std::string text = "  " + name;
  const auto lines = wrapped(meaning, help_width - meaning_column);
  std::size_t next = 0;
  if (text.size() + 2 <= meaning_column && !lines.empty()) {
    text += std::string(meaning_column - text.size(), ' ') + lines[next++];
  }
  text += "\n";
  for (; next < lines.size(); ++next) text += std::string(meaning_column, ' ') + lines[next] + "\n";
  return text;
}

std::string lines_of(const std::string& text) {
  return joined(wrapped(text, help_width), "\n") + "\n";
}

/// A command that is longer than a line goes on as it may in a shell.
std::string last_lines_of(const std::string& text) {
  if (!text.starts_with("Example: ") || character_count(text) <= help_width) return lines_of(text);
  return joined(wrapped(text, help_width - 2), " \\\n  ") + "\n";
}

struct Parts {
  std::vector<const CLI::Option*> words, options;
};

Parts parts_of(const CLI::App& command) {
  Parts parts;
  for (const CLI::Option* option : command.get_options())
    (is_positional(*option) ? parts.words : parts.options).push_back(option);
  return parts;
}

std::string usage(const CLI::App& command, const Parts& parts) {
  std::string text = full_name(command);
  if (!commands_under(command).empty()) text += command.get_require_subcommand_min() > 0 ? " COMMAND" : " [COMMAND]";
  for (const CLI::Option* word : parts.words)
    text += word->get_required() ? " " + written(*word) : fmt::format(" [{}]", written(*word));
  return text + (parts.options.empty() ? "" : " [OPTIONS]");
}

/// What would be an instruction to the formatter of manual pages is written as it is read.
std::string in_manual(std::string_view text) {
  std::string safe;
  for (const char c : text) {
    if (c == '\\' || c == '-') safe += '\\';
    safe += c;
  }
  return safe.starts_with('.') || safe.starts_with('\'') ? "\\&" + safe : safe;
}

std::string in_manual(const CLI::App& command) {
  std::string text =
      fmt::format(".SS {}\n{}\n", in_manual(usage(command, parts_of(command))), in_manual(command.get_description()));
  for (const CLI::Option* option : command.get_options())
    text += fmt::format(".TP\n.B {}\n{}\n", in_manual(written(*option)), in_manual(option->get_description()));
  if (!command.get_footer().empty()) text += fmt::format(".PP\n{}\n", in_manual(command.get_footer()));
  for (const CLI::App* each : commands_under(command)) text += in_manual(*each);
  return text;
}

/// The words that may follow a command, by its full name.
std::string completions(const CLI::App& command) {
  std::vector<std::string> words;
  for (const CLI::App* each : commands_under(command)) words.push_back(each->get_name());
  for (const CLI::Option* option : parts_of(command).options) words.push_back("--" + option->get_lnames().front());
  std::string text = fmt::format("    '{}') words='{}' ;;\n", full_name(command), joined(words, " "));
  for (const CLI::App* each : commands_under(command)) text += completions(*each);
  return text;
}

} // namespace

std::string full_name(const CLI::App& command) {
  const CLI::App* parent = command.get_parent();
  return parent == nullptr ? command.get_name() : full_name(*parent) + " " + command.get_name();
}

std::string help_text(const CLI::App& command) {
  const Parts parts = parts_of(command);
  std::string text = lines_of(command.get_description()) + "\n" + lines_of("Usage: " + usage(command, parts));
  if (!parts.words.empty()) text += "\n";
  for (const CLI::Option* word : parts.words) text += entry(written(*word), word->get_description());
  if (!commands_under(command).empty()) text += "\nCommands:\n";
  for (const CLI::App* each : commands_under(command)) text += entry(each->get_name(), each->get_description());
  if (!parts.options.empty()) text += "\nOptions:\n";
  for (const CLI::Option* option : parts.options) text += entry(written(*option), option->get_description());
  if (!command.get_footer().empty()) text += "\n" + last_lines_of(command.get_footer());
  return text;
}

std::string manual_page(const CLI::App& program, const std::string& version) {
  const std::string name = program.get_name();
  std::string text = fmt::format(".TH {} 1 \"\" \"{} {}\"\n.SH NAME\n{} \\- {}\n.SH COMMANDS\n", name, name, version,
                                 name, in_manual(program.get_description()));
  for (const CLI::App* each : commands_under(program)) text += in_manual(*each);
  return text;
}

std::string completion_script(const CLI::App& program) {
  const std::string name = program.get_name();
  return fmt::format(R"(# For bash: source this file, or put it where bash looks for completions.
_{0}_words() {{
  case "$1" in
{1}  esac
}}
_{0}() {{
  local at='{0}' words='' word current="${{COMP_WORDS[COMP_CWORD]}}"
  for word in "${{COMP_WORDS[@]:1:COMP_CWORD-1}}"; do
    _{0}_words "$at $word"
    [ -n "$words" ] && at="$at $word"
    words=''
  done
  _{0}_words "$at"
  COMPREPLY=($(compgen -W "$words" -- "$current"))
  [[ "$current" == -* ]] || COMPREPLY+=($(compgen -f -- "$current"))
}}
complete -o filenames -F _{0} {0}
)",
                     name, completions(program));
}

} // namespace tanzen::cli
