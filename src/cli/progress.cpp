#include "progress.hpp"

#include "tanzen/search/outcome.hpp"

#include <algorithm>
#include <fmt/format.h>
#include <unistd.h>

namespace tanzen::cli {

RunProgress::RunProgress(const Streams& streams, std::size_t before, std::size_t all, bool plain_lines)
    : streams_(streams), on_terminal_(isatty(fileno(streams.err)) != 0), plain_lines_(plain_lines && !on_terminal_),
      before_(before), all_(all) {}

RunProgress::~RunProgress() {
  if (!on_terminal_) return;
  std::fputs("\r\x1b[K", streams_.err);
  std::fflush(streams_.err);
}

double RunProgress::seconds() const {
  return std::chrono::duration<double>(Clock::now() - began_).count();
}

void RunProgress::note_run(bool is_failure) {
  ++done_;
  failures_ += is_failure ? 1 : 0;
  if (on_terminal_) show_bar();
  if (plain_lines_) show_line();
}

std::string RunProgress::line() const {
  const double rate = static_cast<double>(done_) / std::max(seconds(), 1e-9);
  const double left = static_cast<double>(all_ - before_ - done_) / rate;
  const std::string failed = failures_ > 0 ? fmt::format(", {} failed", failures_) : "";
  return fmt::format("{} of {} runs, {:.3g} a second, {} left{}", before_ + done_, all_, rate, duration_text(left),
                     failed);
}

void RunProgress::show_bar() {
  constexpr auto between = std::chrono::milliseconds(100);
  constexpr std::size_t width = 24;
  if (Clock::now() - shown_ < between) return;
  shown_ = Clock::now();
  const std::size_t full = width * (before_ + done_) / all_;
  // How far it is may be lost; the work goes on.
  std::fputs(fmt::format("\r\x1b[K  {:=<{}}{:.<{}}  {}", "", full, "", width - full, line()).c_str(), streams_.err);
  std::fflush(streams_.err);
}

void RunProgress::show_line() {
  constexpr auto between = std::chrono::seconds(2);
  if (10 * (before_ + done_) < next_tenth_ * all_ || Clock::now() - shown_ < between) return;
  next_tenth_ = 10 * (before_ + done_) / all_ + 1;
  shown_ = Clock::now();
  std::fputs(fmt::format("  {}\n", line()).c_str(), streams_.out);
  std::fflush(streams_.out);
}

std::string RunProgress::summary() const {
  return fmt::format("{} runs in {}, {:.3g} a second{}", done_, duration_text(seconds()),
                     static_cast<double>(done_) / std::max(seconds(), 1e-9),
                     failures_ > 0 ? fmt::format(", {} failed", failures_) : "");
}

} // namespace tanzen::cli
