#pragma once

#include "tanzen/cli/command_line.hpp"

#include "command.hpp"

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
void add_sample(const Command& program, Context& context);
void add_stationary(const Command& program, Context& context);
void add_demo(const Command& program, Context& context);

} // namespace tanzen::cli
