#include "tanzen/files/named_problem.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/external/external_program.hpp"
#include "tanzen/files/problem_file.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <fmt/format.h>

namespace tanzen {

Problem named_problem(const std::string& name, const std::filesystem::path& folder) {
  return name.ends_with(".toml") ? read_problem(folder / name) : testbed::parse_problem(name);
}

Problem read_problem(const std::filesystem::path& path) {
  const ProblemDefinition definition = read_definition(path);
  try {
    return build_problem(definition, make_external);
  } catch (const InputError& error) {
    throw InputError(fmt::format("{}: {}", path.string(), error.what()));
  }
}

} // namespace tanzen
