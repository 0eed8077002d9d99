#include "interrupt.hpp"

#include <array>
#include <csignal>

namespace tanzen::cli {
namespace {

// A signal handler can reach nothing but a global.
volatile std::sig_atomic_t asked_to_stop = 0;

constexpr std::array polite_signals = {SIGINT, SIGTERM, SIGHUP};

void answer_signals(void (*handler)(int)) {
  for (const int signal : polite_signals) {
    if (std::signal(signal, handler) == SIG_IGN) std::signal(signal, SIG_IGN); // under nohup it stays so
  }
}

void on_interrupt(int /*signal*/) {
  asked_to_stop = 1;
  answer_signals(SIG_DFL); // the second of any kind ends it
}

} // namespace

InterruptGuard::InterruptGuard() {
  asked_to_stop = 0;
  answer_signals(on_interrupt);
}

InterruptGuard::~InterruptGuard() {
  answer_signals(SIG_DFL);
}

bool InterruptGuard::is_asked() {
  return asked_to_stop != 0;
}

} // namespace tanzen::cli
