#pragma once

#include "tanzen/cli/command_line.hpp"

#include <CLI/App.hpp>
#include <fmt/format.h>

namespace tanzen::cli {

/// What every command gets.
struct Context {
  const Additions& additions;
  Streams streams;
  int exit_code = 0;

  template <class... Arguments>
  void print(fmt::format_string<Arguments...> form, Arguments&&... arguments) const {
    fmt::print(streams.out, form, std::forward<Arguments>(arguments)...);
  }
};

/// Each command adds itself to the program: its options, its help, and what it does.
void add_problems(CLI::App& program, Context& context);
void add_methods(CLI::App& program, Context& context);
void add_solve(CLI::App& program, Context& context);
void add_sweep(CLI::App& program, Context& context);
void add_compare(CLI::App& program, Context& context);
void add_campaign(CLI::App& program, Context& context);
void add_figure(CLI::App& program, Context& context);
void add_check(CLI::App& program, Context& context);
void add_demo(CLI::App& program, Context& context);

} // namespace tanzen::cli
