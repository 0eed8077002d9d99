#pragma once

#include <span>
#include <string>

namespace tanzen::cli {

/// A file that an option asks to be written; an empty path is none.
struct OutputFile {
  const char* option;
  const std::string& path;
};

/// Before the work: throws FileError where one of them could not be written, InputError where two options name one
/// file.
void check_outputs(std::span<const OutputFile> files);

} // namespace tanzen::cli
