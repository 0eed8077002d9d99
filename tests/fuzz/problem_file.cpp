// Any file is either refused with a message or is a problem, and written back it is the same file.
#include <tanzen/base/errors.hpp>
#include <tanzen/files/problem_file.hpp>

#include <cstdint>
#include <cstdlib>
#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace tanzen;
  const std::string_view text(reinterpret_cast<const char*>(data), size);
  try {
    const ProblemDefinition definition = definition_from_toml(text, "/nonexistent");
    const Problem problem = build_problem(definition);
    const std::string written = definition_to_toml(definition);
    if (definition_to_toml(definition_from_toml(written)) != written) std::abort();
    (void)problem.value(problem.region().lower);
  } catch (const InputError&) {
    // refused, with a message
  } catch (const FileError&) {
    // its table is not there
  }
  return 0;
}
