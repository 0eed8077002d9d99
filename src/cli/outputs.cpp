#include "outputs.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/files/write_file.hpp"

#include <filesystem>
#include <fmt/format.h>
#include <map>

namespace tanzen::cli {

void check_outputs(std::span<const OutputFile> files) {
  std::map<std::filesystem::path, const char*> taken;
  for (const OutputFile& file : files) {
    if (file.path.empty()) continue;
    check_can_write(file.path);
    std::error_code ignored;
    const auto [other, is_new] = taken.emplace(
        std::filesystem::weakly_canonical(std::filesystem::absolute(file.path, ignored), ignored), file.option);
    if (!is_new)
      throw InputError(fmt::format("{} and {} both write to {}; give each a file of its own", other->second,
                                   file.option, file.path));
  }
}

} // namespace tanzen::cli
