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
  std::string command = {};                                               ///< as it was typed
  std::shared_ptr<std::string> printed = std::make_shared<std::string>(); ///< so far

  template <class... Arguments>
  void print(fmt::format_string<Arguments...> form, Arguments&&... arguments) const {
    const std::string text = fmt::format(form, std::forward<Arguments>(arguments)...);
    *printed += text;
    fmt::print(streams.out, "{}", text);
  }
};

/// Each command adds itself to the program: its options, its help, and what it does.
void add_problems(const Command& program, Context& context);
void add_methods(const Command& program, Context& context);
void add_solve(const Command& program, Context& context);
void add_sweep(const Command& program, Context& context);
void add_compare(const Command& program, Context& context);
void add_campaign(const Command& program, Context& context);
void add_figure(const Command& program, Context& context);
void add_check(const Command& program, Context& context);
void add_fit(const Command& program, Context& context);
void add_front(const Command& program, Context& context);
void add_report(const Command& program, Context& context);
void add_sample(const Command& program, Context& context);
void add_stationary(const Command& program, Context& context);
void add_demo(const Command& program, Context& context);

} // namespace tanzen::cli
