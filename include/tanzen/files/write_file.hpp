#pragma once

#include "tanzen/external/descriptor.hpp"

#include <filesystem>
#include <string>
#include <string_view>

namespace tanzen {

/// A file that is written piece by piece and appears as a whole when it is finished, or not at all: until then it has
/// no name, where the file system can do that, or one that nobody can foresee, so that whatever ends the program leaves
/// the old file and nothing beside it. A link is followed to the file that it names; a file that was there keeps its
/// mode; pipes and devices such as /dev/stdout are written to as such. Throws FileError with the system's reason.
class FileWriter {
 public:
  explicit FileWriter(std::filesystem::path path);
  FileWriter(const FileWriter&) = delete;
  FileWriter& operator=(const FileWriter&) = delete;
  ~FileWriter();

  void add(std::string_view text);
  void finish();

 private:
  void open_nameless();
  void flush();
  void take_its_place();

  std::filesystem::path path_;      ///< as it was given, for messages
  std::filesystem::path target_;    ///< what it comes to
  std::filesystem::path temporary_; ///< its name until it is finished, if it has one
  bool is_stream_ = false;          ///< a pipe or device
  Descriptor file_;
  std::string waiting_; ///< not yet written
};

/// Writes a whole file, as a FileWriter does.
void write_file(const std::filesystem::path& path, std::string_view content);

/// Throws FileError where a file of that name could not be written now: no such folder, no permission, a folder itself.
/// For before the work whose result it shall hold.
void check_can_write(const std::filesystem::path& path);

/// Reads a whole file, or what comes through a pipe, of at most a gigabyte. Throws FileError with the system's reason.
[[nodiscard]] std::string read_file(const std::filesystem::path& path);

} // namespace tanzen
