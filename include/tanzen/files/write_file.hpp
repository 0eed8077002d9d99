#pragma once

#include <cstdio>
#include <filesystem>
#include <memory>
#include <string>
#include <string_view>

namespace tanzen {

/// A file that is written piece by piece and appears as a whole when it is finished, or not at all: until then it is a
/// temporary one beside its place, which goes where the writer goes unfinished. Throws FileError with the system's
/// reason.
class FileWriter {
 public:
  explicit FileWriter(std::filesystem::path path);
  FileWriter(const FileWriter&) = delete;
  FileWriter& operator=(const FileWriter&) = delete;
  ~FileWriter();

  void add(std::string_view text);
  void finish();

 private:
  struct Close {
    void operator()(std::FILE* file) const { std::fclose(file); }
  };
  std::filesystem::path path_, temporary_;
  std::unique_ptr<std::FILE, Close> file_;
};

/// Writes a whole file: to a temporary one beside it, which is then renamed, so that a crash or a full disk leaves
/// the old file or the new one. Throws FileError with the system's reason.
void write_file(const std::filesystem::path& path, std::string_view content);

/// Reads a whole file. Throws FileError with the system's reason.
[[nodiscard]] std::string read_file(const std::filesystem::path& path);

/// A name beside `path` for a file that will be renamed to it; it keeps the ending.
[[nodiscard]] std::filesystem::path temporary_beside(const std::filesystem::path& path);

/// Renames a finished temporary file to its place. Throws FileError, and removes it, where that fails.
void move_into_place(const std::filesystem::path& temporary, const std::filesystem::path& path);

} // namespace tanzen
