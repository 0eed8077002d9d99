#include "child_process.hpp"

#include "tanzen/base/readable.hpp"
#include "tanzen/base/text.hpp"

#include <array>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <stdexcept>
#include <sys/socket.h>
#include <unistd.h>

namespace tanzen::external {
namespace {

constexpr std::size_t longest_line = std::size_t{1} << 20U;

} // namespace

ChildProcess::ChildProcess(const std::vector<std::string>& command, const std::string& folder) {
  std::array<int, 2> stream{-1, -1}, errors{-1, -1};
  if (socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, stream.data()) != 0)
    throw std::runtime_error(fmt::format("no connection to {}: {}", command.front(), std::strerror(errno)));
  stream_.reset(stream[0]);
  const Descriptor of_program(stream[1]);
  if (pipe2(errors.data(), O_CLOEXEC | O_NONBLOCK) != 0)
    throw std::runtime_error(fmt::format("no connection to {}: {}", command.front(), std::strerror(errno)));
  errors_.reset(errors[0]);
  const Descriptor errors_of_program(errors[1]);
  process_.emplace(ProgramStart{.command = command,
                                .folder = folder,
                                .input = of_program.get(),
                                .output = of_program.get(),
                                .errors = errors_of_program.get()});
}

ChildProcess::Waited ChildProcess::wait_for(short events, const Wait& wait) {
  constexpr long long between_questions = 50, longest = 1 << 30;
  for (;;) {
    if (wait.asked_to_stop && wait.asked_to_stop()) return Waited::asked_to_stop;
    const auto left = std::chrono::ceil<std::chrono::milliseconds>(wait.deadline - Clock::now()).count();
    if (left <= 0) return Waited::deadline;
    const auto time = static_cast<int>(std::min<long long>(left, wait.asked_to_stop ? between_questions : longest));
    std::array<pollfd, 2> waiting{pollfd{stream_.get(), events, 0}, pollfd{errors_.get(), POLLIN, 0}};
    const int ready = poll(waiting.data(), errors_.is_open() ? 2 : 1, time);
    if (ready < 0 && errno != EINTR) return Waited::ready; // the read or write that follows tells why
    if (ready > 0 && waiting[1].revents != 0 && errors_.is_open()) drain_errors();
    if (ready > 0 && waiting[0].revents != 0) return Waited::ready;
  }
}

void ChildProcess::drain_errors() {
  constexpr std::size_t kept = 2000;
  std::array<char, 4096> chunk;
  for (;;) {
    const ssize_t count = read(errors_.get(), chunk.data(), chunk.size());
    if (count > 0) {
      error_text_.append(chunk.data(), static_cast<std::size_t>(count));
      if (error_text_.size() > kept) error_text_.erase(0, error_text_.size() - kept);
      continue;
    }
    if (count == 0) errors_.reset();
    return;
  }
}

bool ChildProcess::write_line(std::string_view line, const Wait& wait) {
  const std::string text = std::string(line) + "\n";
  std::string_view left = text;
  while (!left.empty()) {
    const ssize_t count = send(stream_.get(), left.data(), left.size(), MSG_NOSIGNAL | MSG_DONTWAIT);
    if (count > 0) {
      left.remove_prefix(static_cast<std::size_t>(count));
    } else if (errno == EAGAIN || errno == EWOULDBLOCK) {
      if (wait_for(POLLOUT, wait) != Waited::ready) return false;
    } else if (errno != EINTR) {
      return false;
    }
  }
  return true;
}

ChildProcess::Read ChildProcess::read_line(std::string& line, const Wait& wait) {
  std::array<char, 4096> chunk;
  for (;;) {
    if (const std::size_t end = buffer_.find('\n'); end != std::string::npos) {
      line = buffer_.substr(0, end);
      buffer_.erase(0, end + 1);
      return Read::line;
    }
    if (buffer_.size() > longest_line) return Read::too_long;
    switch (wait_for(POLLIN, wait)) {
    case Waited::asked_to_stop: return Read::asked_to_stop;
    case Waited::deadline: return Read::timeout;
    case Waited::ready: break;
    }
    const ssize_t count = recv(stream_.get(), chunk.data(), chunk.size(), MSG_DONTWAIT);
    if (count > 0)
      buffer_.append(chunk.data(), static_cast<std::size_t>(count));
    else if (count == 0 || (errno != EAGAIN && errno != EWOULDBLOCK && errno != EINTR))
      return Read::ended;
  }
}

std::string ChildProcess::last_words() {
  // It has closed its output; it may need a moment to end, or never do so.
  constexpr int moment = 100;
  const auto status = process_->ended(moment);
  if (errors_.is_open()) drain_errors();
  const std::string text = status ? end_text(*status) : std::string("it closed its output");
  const std::string_view said = trimmed(error_text_);
  const std::size_t last = said.rfind('\n');
  const std::string_view line = last == std::string_view::npos ? said : said.substr(last + 1);
  return line.empty() ? text : fmt::format("{}: {}", text, readable_line(clipped(line, 120)));
}

} // namespace tanzen::external
