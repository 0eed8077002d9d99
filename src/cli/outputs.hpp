#pragma once

#include <span>
#include <string_view>

namespace tanzen::cli {

/// A file that an option asks to be written; an empty path is none.
struct OutputFile {
  const char* option;
  std::string_view path;
};

/// Before the work: throws FileError where one of them could not be written, InputError where two options name one
/// file.
void check_outputs(std::span<const OutputFile> files);

} // namespace tanzen::cli
