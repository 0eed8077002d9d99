// Any file is either refused with a message or is a plan, and written back it is the same plan.
#include <tanzen/base/errors.hpp>
#include <tanzen/files/plan_file.hpp>

#include <cstdint>
#include <cstdlib>
#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace tanzen;
  const std::string_view text(reinterpret_cast<const char*>(data), size);
  try {
    const std::string written = plan_to_toml(plan_from_toml(text));
    if (plan_to_toml(plan_from_toml(written)) != written) std::abort();
  } catch (const InputError&) {
    // refused, with a message
  }
  return 0;
}
