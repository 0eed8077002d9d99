#pragma once

#include "guarded_process.hpp"

#include <chrono>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen::external {

/// A program under way, with its standard input and output as lines. Killed, with what it has started, when this goes.
class ChildProcess {
 public:
  /// Throws std::runtime_error where it cannot be started. `folder` empty: here.
  ChildProcess(const std::vector<std::string>& command, const std::string& folder);
  ChildProcess(const ChildProcess&) = delete;
  ChildProcess& operator=(const ChildProcess&) = delete;

  using Clock = std::chrono::steady_clock;

  /// How long is waited: to the deadline, or until the user, asked some times a second, wants to stop.
  struct Wait {
    Clock::time_point deadline;
    const std::function<bool()>& asked_to_stop;
  };
  enum class Read { line, ended, timeout, too_long, asked_to_stop };

  /// Writes a line; false where the program no longer reads, or not while it is waited.
  bool write_line(std::string_view line, const Wait& wait);
  /// The next line of its output.
  Read read_line(std::string& line, const Wait& wait);
  /// How it ended, and the last line it wrote to its standard error, once it has ended.
  [[nodiscard]] std::string last_words();

 private:
  enum class Waited { ready, deadline, asked_to_stop };
  Waited wait_for(short events, const Wait& wait);
  void drain_errors();

  Descriptor stream_; ///< a socket: its standard input and output
  Descriptor errors_; ///< its standard error
  std::optional<GuardedProcess> process_;
  std::string buffer_, error_text_;
};

} // namespace tanzen::external
