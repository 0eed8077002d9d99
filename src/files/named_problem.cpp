#include "tanzen/files/named_problem.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/external/external_program.hpp"
#include "tanzen/files/problem_file.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <fmt/format.h>

namespace tanzen {

Problem named_problem(const std::string& name, const std::filesystem::path& folder, const ProgramMaker& make_program) {
  return name.ends_with(".toml") ? read_problem(folder / name, make_program) : testbed::parse_problem(name);
}

Problem read_problem(const std::filesystem::path& path, const ProgramMaker& make_program) {
  const ProblemDefinition definition = read_definition(path);
  // The other one of its two forms takes one argument more.
  const ProgramMaker usual = [](Index dimension, const PartCounts& parts, const ProgramDefinition& program) {
    return make_external(dimension, parts, program);
  };
  try {
    return build_problem(definition, make_program ? make_program : usual);
  } catch (const InputError& error) {
    throw InputError(fmt::format("{}: {}", path.string(), error.what()));
  }
}

} // namespace tanzen
