#include "tanzen/cli/command_line.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/readable.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/external/external_program.hpp"
#include "tanzen/version.hpp"

#include "commands.hpp"
#include "lines.hpp"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <filesystem>
#include <new>
#include <unistd.h>

namespace tanzen {
namespace {

constexpr int input_was_wrong = 2, something_failed = 3;

/// Opens the standard streams that are closed on the null device, so that no file takes their place and their output.
void keep_standard_streams() {
  for (;;) {
    const int opened = open("/dev/null", O_RDWR); // NOLINT(cppcoreguidelines-pro-type-vararg)
    if (opened > STDERR_FILENO) {
      close(opened);
      return;
    }
    if (opened < 0) return;
  }
}

/// Programs that problem files ask for: before the first start a line says which.
ProgramMaker told_programs(const Streams& streams) {
  const auto tell = [streams](const ProgramDefinition& program) {
    const std::string where = program.folder.empty() ? "here" : "in " + program.folder;
    const std::string line = readable_line(
        fmt::format("{}, started {}: the problem's file asks for it", joined(program.command, " "), where));
    std::fputs(block_line("program", line).c_str(), streams.err);
  };
  return [tell](Index dimension, const PartCounts& parts, const ProgramDefinition& program) {
    return make_external(dimension, parts, program, tell);
  };
}

/// Where even that cannot be written, the exit code has to do.
void complain(const cli::Context& context, const std::string& message, const std::string& see = {}) {
  const std::string text = readable(fmt::format("{}: {}\n{}", context.program, message, see));
  std::fwrite(text.data(), 1, text.size(), context.streams.err);
}

/// The command as a shell takes it, whatever folder the program was started from.
std::string command_text(const std::string& program, int argc, const char* const* argv) {
  std::string text = program;
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

/// What a word may have been meant as that a command has no place for.
std::string with_option(const MethodCatalogue& methods, const std::string& word,
                        const std::vector<std::string>& options) {
  const std::string bare = word.substr(0, word.find(':'));
  const bool takes_method = std::ranges::find(options, "--with") != options.end();
  const bool is_method = std::ranges::any_of(methods.all(), [&](const Method& each) { return each.name() == bare; });
  if (takes_method && is_method) return fmt::format("; a method is named by --with {}", clipped(word, 40));
  std::vector<std::string> bare_options;
  for (const std::string& option : options) bare_options.push_back(option.substr(2));
  const auto meant = nearest_name(bare, bare_options);
  return meant ? fmt::format("; did you mean '--{}'?", *meant) : std::string();
}

/// A command, and what it is told of in the list of all.
struct CommandRow {
  const char* name;
  const char* what;
  void (*fill)(const cli::Command& command, cli::Context& context);
};

constexpr CommandRow command_rows[] = {
    {"problems", "the testbed: a list, or the card of one problem", cli::add_problems},
    {"methods", "the methods: a list, or the card of one with its settings", cli::add_methods},
    {"solve", "one run: the iterations, the outcome, what to make of it", cli::add_solve},
    {"sweep", "one method, one thing varied, side by side", cli::add_sweep},
    {"compare", "many methods on many problems, many times", cli::add_compare},
    {"campaign", "the runs of a plan, into a results file; goes on by itself", cli::add_campaign},
    {"figure", "one picture: png, svg, pdf, html, gif or mp4 by its ending", cli::add_figure},
    {"fit", "a model fitted to data: parameters with their errors, residuals, the curve", cli::add_fit},
    {"front", "the nondominated ones among points of several objectives, and indicators", cli::add_front},
    {"sample", "random points of a problem's region and what it says of them", cli::add_sample},
    {"stationary", "all stationary points, under equality constraints too, each classified", cli::add_stationary},
    {"check", "what is wrong with a derivative, a method or the stated minima of one's own", cli::add_check},
    {"report", "one page for colleagues: sentences, tables, figures, runs", cli::add_report},
    {"demo", "a guided tour: five small acts, with pictures", cli::add_demo},
};

/// All commands; where the first word is one of them, what the others take is not asked for.
void add_commands(const cli::Program& program, cli::Context& context, std::string_view first_word) {
  const bool is_named =
      std::ranges::any_of(command_rows, [&](const CommandRow& row) { return row.name == first_word; });
  for (const CommandRow& row : command_rows) {
    const cli::Command command = program.command(row.name, row.what);
    if (!is_named || row.name == first_word) row.fill(command, context);
  }
}

void add_help(cli::Program& program, cli::Context& context) {
  struct Options {
    std::vector<std::string> words;
    std::string form = "text";
  };
  const cli::Command command = program.command("help", "what a command does and takes");
  auto options = std::make_shared<Options>();
  command.takes("command", options->words, "COMMAND", "a command, and one under it: campaign merge");
  command.takes("--as", options->form, "FORM", "text; manual, a page for man of all commands; or bash, what completes");
  command.example(fmt::format("{} help campaign merge", context.program));
  command.does([options, &program, &context] {
    const std::vector<std::string> forms{"text", "manual", "bash"};
    if (std::ranges::find(forms, options->form) == forms.end())
      throw InputError(fmt::format("--as must be one of {}; found '{}'{}", joined(forms, ", "),
                                   clipped(options->form, 40), did_you_mean(options->form, forms)));
    context.say(options->form == "text"     ? program.help(options->words)
                : options->form == "manual" ? program.manual()
                                            : program.completion());
  });
}

int parse_and_run(cli::Program& program, cli::Context& context, int argc, const char* const* argv) {
  const auto answer = program.parse(argc, argv);
  if (!answer.complaint.empty()) {
    complain(context, answer.complaint, fmt::format("See '{}'.\n", answer.see));
    return input_was_wrong;
  }
  context.print("{}", answer.help); // the parser's own printing is to C++ streams; ours are C's
  return context.exit_code;
}

} // namespace

void cli::Context::say(const std::string& text) const {
  const std::string shown = cli::fitted(readable(text), width);
  *printed += shown;
  if (std::fwrite(shown.data(), 1, shown.size(), streams.out) != shown.size())
    throw FileError(fmt::format("the output could not be written: {}", std::strerror(errno)));
}

int run_command_line(int argc, const char* const* argv, const Additions& additions, const Streams& streams) {
  keep_standard_streams();
  Additions own = additions;
  if (!own.make_program) own.make_program = told_programs(streams);
  cli::Context context{own, streams};
  if (argc > 0) context.program = std::filesystem::path(argv[0]).filename().string();
  context.command = readable_line(command_text(context.program, argc, argv));
  context.width = cli::line_width(streams.out);
  cli::Program program(context.program,
                       "Numerical optimization: write an objective down, run a method, see what it did, compare.",
                       version);
  program.needs_command();
  program.last_line(fmt::format("Try '{} demo' first. Each command has --help with an example.", context.program));
  program.explains_extra_words([&](const std::string& word, const std::vector<std::string>& options) {
    return with_option(own.methods, word, options);
  });
  add_commands(program, context, argc > 1 ? argv[1] : "");
  add_help(program, context);
  try {
    int code = parse_and_run(program, context, argc, argv);
    if (std::fflush(streams.out) != 0 || std::ferror(streams.out) != 0) {
      complain(context, "the output could not be written");
      code = something_failed;
    }
    return code;
  } catch (const InputError& error) {
    complain(context, error.what());
    return input_was_wrong;
  } catch (const std::bad_alloc&) {
    complain(context, "there is not enough memory for that");
    return something_failed;
  } catch (const std::exception& error) {
    complain(context, error.what());
    return something_failed;
  }
}

} // namespace tanzen
