#include "tanzen/search/ledger.hpp"

#include "tanzen/base/text.hpp"

#include <fmt/format.h>

namespace tanzen {

Ledger::Ledger(const StopRules& rules)
    : evaluation_limit_(rules.evaluations.value_or(no_limit_)), has_deadline_(rules.seconds.has_value()),
      seconds_limit_(rules.seconds.value_or(0)), began_(std::chrono::steady_clock::now()) {}

std::optional<std::int64_t> Ledger::evaluation_limit() const {
  return evaluation_limit_ == no_limit_ ? std::nullopt : std::optional(evaluation_limit_);
}

std::optional<std::chrono::steady_clock::time_point> Ledger::deadline() const {
  constexpr double longest = 1e8; // a year is 3.2e7 seconds; the clock's own numbers end at 9.2e9
  if (!has_deadline_ || !(seconds_limit_ < longest)) return std::nullopt;
  return began_ +
         std::chrono::duration_cast<std::chrono::steady_clock::duration>(std::chrono::duration<double>(seconds_limit_));
}

void Ledger::check_limits() const {
  if (evaluations() >= evaluation_limit_) {
    throw RunEnded{Status::evaluations,
                   fmt::format("the limit of {} is reached", counted(evaluation_limit_, "evaluation"))};
  }
  if (has_deadline_ && seconds() >= seconds_limit_) {
    throw RunEnded{Status::time, fmt::format("the limit of {} s is reached", number_text(seconds_limit_))};
  }
}

} // namespace tanzen
