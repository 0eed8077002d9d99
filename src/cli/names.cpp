#include "names.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/named_problem.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace tanzen::cli {

Problem added_or_test_problem(const Additions& additions, const std::string& name) {
  const auto added = std::ranges::find(additions.problems, name, &Problem::name);
  if (added != additions.problems.end()) return *added;
  std::vector<std::string> known = testbed::names();
  const std::string bare(trimmed(name.substr(0, name.find(':'))));
  if (std::ranges::find(additions.problems, bare, &Problem::name) != additions.problems.end())
    throw InputError(fmt::format("{} is the program's own problem, which takes no options: leave '{}' away", bare,
                                 clipped(name.substr(name.find(':')), 40)));
  if (std::ranges::find(known, bare) == known.end() && !additions.problems.empty()) {
    for (const Problem& each : additions.problems) known.push_back(each.name());
    throw InputError(fmt::format("there is no problem '{}'{}", clipped(bare, 40), did_you_mean(bare, known)));
  }
  return testbed::parse_problem(name);
}

PlanNames names_beside(const Additions& additions, const std::filesystem::path& plan) {
  return {additions.methods, [&additions, folder = plan.parent_path()](const std::string& name) {
            return name.ends_with(".toml") ? named_problem(name, folder, additions.make_program)
                                           : added_or_test_problem(additions, name);
          }};
}

} // namespace tanzen::cli
