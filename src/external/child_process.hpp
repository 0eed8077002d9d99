#pragma once

#include <chrono>
#include <optional>
#include <string>
#include <string_view>
#include <sys/types.h>
#include <vector>

namespace tanzen::external {

/// A program under way, with its standard input and output as lines. Killed, with what it has started, when this goes.
class ChildProcess {
 public:
  /// Throws std::runtime_error where it cannot be started. `folder` empty: here.
  ChildProcess(const std::vector<std::string>& command, const std::string& folder);
  ChildProcess(const ChildProcess&) = delete;
  ChildProcess& operator=(const ChildProcess&) = delete;
  ~ChildProcess();

  using Clock = std::chrono::steady_clock;

  enum class Read { line, ended, timeout, too_long };

  /// Writes a line; false where the program no longer reads, or not before the deadline.
  bool write_line(std::string_view line, Clock::time_point deadline);
  /// The next line of its output.
  Read read_line(std::string& line, Clock::time_point deadline);
  /// How it ended, and the last line it wrote to its standard error, once it has ended.
  [[nodiscard]] std::string last_words();

 private:
  bool wait_for(short events, Clock::time_point deadline);
  void drain_errors();

  pid_t process_ = -1;
  int stream_ = -1; ///< a socket: its standard input and output
  int errors_ = -1; ///< its standard error
  std::string buffer_, error_text_;
};

} // namespace tanzen::external
