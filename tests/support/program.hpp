#pragma once

#include "support/text.hpp"

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

/// The real programs, driven through pipes.
namespace testing {

struct ProgramResult {
  int code = -1;
  std::string out;
  std::string err;
};

/// Runs a program with arguments; no shell comes between.
ProgramResult run_program(const std::string& program, const std::vector<std::string>& arguments,
                          const std::filesystem::path& folder = ".");

/// A program that runs beside the test, its output thrown away; killed where it is not waited for.
class RunningProgram {
 public:
  RunningProgram(const std::string& program, const std::vector<std::string>& arguments,
                 const std::filesystem::path& folder);
  RunningProgram(const RunningProgram&) = delete;
  RunningProgram& operator=(const RunningProgram&) = delete;
  ~RunningProgram();
  void send(int signal) const;
  /// Its exit code, 1000 and more for a signal that ended it.
  int wait();

 private:
  int child_;
};

/// Runs `tanzen` on a terminal of so many columns; what it prints comes back as its output.
ProgramResult tanzen_on_terminal(const std::vector<std::string>& arguments, unsigned columns,
                                 const std::filesystem::path& folder = ".");

/// How many processes have a text in their command lines, this one aside.
std::size_t processes_with(std::string_view text);

/// Runs a command of the shell.
ProgramResult shell(const std::string& command, const std::filesystem::path& folder = ".");

/// Runs `tanzen`.
ProgramResult tanzen(const std::vector<std::string>& arguments, const std::filesystem::path& folder = ".");

/// Runs a command as a document shows it: words apart by blanks, quotes kept together; its first word is `tanzen`.
ProgramResult tanzen_line(std::string_view line, const std::filesystem::path& folder = ".");

/// A folder of its own that goes away again.
class TemporaryFolder {
 public:
  TemporaryFolder();
  ~TemporaryFolder();
  TemporaryFolder(const TemporaryFolder&) = delete;
  TemporaryFolder& operator=(const TemporaryFolder&) = delete;
  [[nodiscard]] const std::filesystem::path& path() const { return path_; }
  [[nodiscard]] std::filesystem::path operator/(const std::string& name) const { return path_ / name; }

 private:
  std::filesystem::path path_;
};

/// Whether a text has these words one after the other, on whichever lines.
[[nodiscard]] bool says(std::string_view text, std::string_view words);

} // namespace testing
