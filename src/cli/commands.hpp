#pragma once

#include "tanzen/cli/command_line.hpp"

#include "command.hpp"

#include <fmt/format.h>
#include <memory>
#include <string>

namespace tanzen::cli {

/// What every command gets.
struct Context {
  const Additions& additions;
  Streams streams;
  int exit_code = 0;
  std::string program = "tanzen";                                         ///< what it was called as
  std::size_t width = 100;                                                ///< of a line, in characters
  std::string command = {};                                               ///< as it was typed
  std::shared_ptr<std::string> printed = std::make_shared<std::string>(); ///< so far

  template <class... Arguments>
  void print(fmt::format_string<Arguments...> form, Arguments&&... arguments) const {
    say(fmt::format(form, std::forward<Arguments>(arguments)...));
  }
  /// Writes a text, with what a terminal would obey spelt out and long indented lines cut to the width. Throws
  /// FileError where that cannot be.
  void say(const std::string& text) const;
};

/// Each command says what it takes, what its help ends with, and what it does.
void add_problems(const Command& command, Context& context);
void add_methods(const Command& command, Context& context);
void add_solve(const Command& command, Context& context);
void add_sweep(const Command& command, Context& context);
void add_compare(const Command& command, Context& context);
void add_campaign(const Command& command, Context& context);
void add_figure(const Command& command, Context& context);
void add_check(const Command& command, Context& context);
/// A part of it.
void add_check_minima(const Command& check, Context& context);
void add_fit(const Command& command, Context& context);
void add_front(const Command& command, Context& context);
void add_report(const Command& command, Context& context);
void add_sample(const Command& command, Context& context);
void add_stationary(const Command& command, Context& context);
void add_demo(const Command& command, Context& context);

} // namespace tanzen::cli
