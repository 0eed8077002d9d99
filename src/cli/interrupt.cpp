#include "interrupt.hpp"

#include <csignal>

namespace tanzen::cli {
namespace {

// A signal handler can reach nothing but a global.
volatile std::sig_atomic_t asked_to_stop = 0;

void on_interrupt(int signal) {
  asked_to_stop = 1;
  std::signal(signal, SIG_DFL);
}

} // namespace

InterruptGuard::InterruptGuard() {
  asked_to_stop = 0;
  std::signal(SIGINT, on_interrupt);
}

InterruptGuard::~InterruptGuard() {
  std::signal(SIGINT, SIG_DFL);
}

bool InterruptGuard::is_asked() {
  return asked_to_stop != 0;
}

Observer InterruptGuard::observer() {
  return [](const Progress&) { return is_asked() ? Watch::stop : Watch::go_on; };
}

} // namespace tanzen::cli
