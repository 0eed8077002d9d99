#pragma once

#include "tanzen/cli/command_line.hpp"

#include <chrono>
#include <cstddef>
#include <string>

namespace tanzen::cli {

/// How far many runs have come: on a terminal a bar with the rate, the time left and the failures; elsewhere a plain
/// line now and then, if wanted.
class RunProgress {
 public:
  /// `before` of `all` runs were done already.
  RunProgress(const Streams& streams, std::size_t before, std::size_t all, bool plain_lines);
  RunProgress(const RunProgress&) = delete;
  RunProgress& operator=(const RunProgress&) = delete;
  /// Takes the bar away.
  ~RunProgress();

  void note_run(bool is_failure);
  /// `312 runs in 4.6 s, 68 a second, 2 failed`.
  [[nodiscard]] std::string summary() const;

 private:
  using Clock = std::chrono::steady_clock;
  [[nodiscard]] double seconds() const;
  [[nodiscard]] std::string line() const;
  void show_bar();
  void show_line();

  const Streams& streams_;
  bool on_terminal_, plain_lines_;
  std::size_t before_, all_, done_ = 0, failures_ = 0;
  Clock::time_point began_ = Clock::now(), shown_ = began_;
  std::size_t next_tenth_ = 1;
};

} // namespace tanzen::cli
