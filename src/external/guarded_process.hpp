#pragma once

#include "tanzen/external/descriptor.hpp"

#include <optional>
#include <string>
#include <sys/types.h>
#include <vector>

namespace tanzen::external {

/// What a program is started with. The descriptors become its standard input, output and error stream; they stay the
/// caller's.
struct ProgramStart {
  const std::vector<std::string>& command;
  std::string folder = {}; ///< empty: here
  int input, output, errors;
};

/// A program of another package in a process group of its own, which ends with its owner however that ends: a guard, a
/// process between the two, kills the group when the owner is gone, by a signal that cannot be caught too. Programs
/// that make themselves a group of their own escape it. Cost: two forks a start.
class GuardedProcess {
 public:
  /// Throws std::runtime_error where it cannot be started.
  explicit GuardedProcess(const ProgramStart& start);
  GuardedProcess(const GuardedProcess&) = delete;
  GuardedProcess& operator=(const GuardedProcess&) = delete;
  ~GuardedProcess();

  /// How it ended, as `waitpid` tells it, once it has: then nothing of its group is left. Waits so long at most, for
  /// ever where it is negative; nothing if it has not ended by then.
  [[nodiscard]] std::optional<int> ended(int milliseconds);

 private:
  pid_t guard_ = -1;
  Descriptor life_;   ///< held open while this lives; the guard sees it close
  Descriptor report_; ///< how the program ended
  std::optional<int> status_;
};

/// `it ended with exit code 3`, `it was ended by signal 9`.
[[nodiscard]] std::string end_text(int status);

} // namespace tanzen::external
