#include "tanzen/cli/command_line.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/version.hpp"

#include "commands.hpp"

#include <system_error>

namespace tanzen {
namespace {

constexpr int input_was_wrong = 2, something_failed = 3;

void complain(const Streams& streams, const std::string& message) {
  fmt::print(streams.err, "tanzen: {}\n", message);
}

/// The command as a shell takes it, whatever folder the program was started from.
std::string command_text(int argc, const char* const* argv) {
  std::string text = "tanzen";
  for (int k = 1; k < argc; ++k) {
    const std::string word = argv[k];
    const bool is_plain = !word.empty() && word.find_first_not_of("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ"
                                                                  "0123456789-_./,:=+@%") == std::string::npos;
    std::string quoted;
    for (const char c : word) quoted += c == '\'' ? "'\\''" : std::string(1, c);
    text += is_plain ? fmt::format(" {}", word) : fmt::format(" '{}'", quoted);
  }
  return text;
}

int parse_and_run(cli::Program& program, cli::Context& context, int argc, const char* const* argv) {
  const auto answer = program.parse(argc, argv);
  if (!answer.complaint.empty()) {
    complain(context.streams, answer.complaint);
    fmt::print(context.streams.err, "See '{}'.\n", answer.see);
    return input_was_wrong;
  }
  context.print("{}", answer.help); // the parser's own printing is to C++ streams; ours are C's
  return context.exit_code;
}

} // namespace

int run_command_line(int argc, const char* const* argv, const Additions& additions, const Streams& streams) {
  cli::Context context{additions, streams};
  context.command = command_text(argc, argv);
  cli::Program program(
      "tanzen", "Numerical optimization: write an objective down, run a method, see what it did, compare.", version);
  program.needs_command();
  program.last_line("Try 'tanzen demo' first. Each command has --help with an example.");
  for (auto add : {cli::add_problems, cli::add_methods, cli::add_solve, cli::add_sweep, cli::add_compare,
                   cli::add_campaign, cli::add_figure, cli::add_fit, cli::add_front, cli::add_sample,
                   cli::add_stationary, cli::add_check, cli::add_report, cli::add_demo})
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
