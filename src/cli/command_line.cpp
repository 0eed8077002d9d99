#include "tanzen/cli/command_line.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/version.hpp"

#include "commands.hpp"

#include <algorithm>
#include <CLI/Config.hpp>
#include <CLI/Formatter.hpp>
#include <system_error>

namespace tanzen {
namespace {

constexpr int input_was_wrong = 2, something_failed = 3;

/// Every option of a command, as it is written.
std::vector<std::string> option_names(const CLI::App& command) {
  std::vector<std::string> names;
  for (const CLI::Option* option : command.get_options()) {
    for (const std::string& name : option->get_lnames()) names.push_back("--" + name);
  }
  return names;
}

/// What the command line's parser found wrong, in our words.
std::string parse_message(const CLI::ParseError& error, const CLI::App& program) {
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

void complain(const Streams& streams, const std::string& message) {
  fmt::print(streams.err, "tanzen: {}\n", message);
}

int parse_and_run(CLI::App& program, cli::Context& context, int argc, const char* const* argv) {
  try {
    program.parse(argc, argv);
  } catch (const CLI::Success& help) {
    // CLI11 prints to C++ streams; ours are C's.
    if (dynamic_cast<const CLI::CallForVersion*>(&help) != nullptr) {
      context.print("tanzen {}\n", version);
    } else {
      const auto used = program.get_subcommands();
      context.print("{}", used.empty() ? program.help() : used.front()->help());
    }
    return 0;
  } catch (const CLI::ParseError& error) {
    complain(context.streams, parse_message(error, program));
    const auto used = program.get_subcommands();
    fmt::print(context.streams.err, "See 'tanzen {}--help'.\n", used.empty() ? "" : used.front()->get_name() + " ");
    return input_was_wrong;
  }
  return context.exit_code;
}

} // namespace

int run_command_line(int argc, const char* const* argv, const Additions& additions, const Streams& streams) {
  cli::Context context{additions, streams};
  CLI::App program("Numerical optimization: write an objective down, run a method, see what it did, compare.",
                   "tanzen");
  program.set_version_flag("--version", version, "print the version");
  program.require_subcommand(1);
  program.footer("Try 'tanzen demo' first. Each command has --help with an example.");
  for (auto add : {cli::add_problems, cli::add_methods, cli::add_solve, cli::add_sweep, cli::add_compare,
                   cli::add_campaign, cli::add_figure, cli::add_check, cli::add_demo})
    add(program, context);
  try {
    int code = parse_and_run(program, context, argc, argv);
    if (std::fflush(streams.out) != 0 || std::ferror(streams.out) != 0) {
      complain(streams, "the output could not be written");
      code = something_failed;
    }
    return code;
  } catch (const InputError& error) {
    complain(streams, error.what());
    return input_was_wrong;
  } catch (const std::system_error& error) {
    complain(streams, fmt::format("the output could not be written: {}", error.code().message()));
    return something_failed;
  } catch (const std::exception& error) {
    complain(streams, error.what());
    return something_failed;
  }
}

} // namespace tanzen
