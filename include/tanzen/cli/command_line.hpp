#pragma once

#include "tanzen/methods/catalogue.hpp"
#include "tanzen/problem/definition.hpp"

#include <cstdio>
#include <vector>

namespace tanzen {

/// What a program built on Tanzen brings along; found by name in every command.
struct Additions {
  MethodCatalogue methods = standard_methods();
  std::vector<Problem> problems = {};
  /// How the programs that problem files ask for are made; empty: as `make_external` does, and the first start is told
  /// on the error stream.
  ProgramMaker make_program = {};
};

/// Where a command line prints.
struct Streams {
  std::FILE* out = stdout;
  std::FILE* err = stderr;
};

/// The whole program `tanzen` with what was added. Returns the exit code: 0 converged or nothing to converge,
/// 1 ran and did not converge, 2 the input was wrong, 3 the objective or a file failed, 130 interrupted. Throws
/// nothing.
[[nodiscard]] int run_command_line(int argc, const char* const* argv, const Additions& additions = {},
                                   const Streams& streams = {});

} // namespace tanzen
