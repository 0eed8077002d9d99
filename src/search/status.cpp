#include "tanzen/search/status.hpp"

#include <array>
#include <ostream>

namespace tanzen {
namespace {

constexpr std::array<std::string_view, status_count> words = {
    "target", "gradient",    "step",    "value",      "method", "iterations", "evaluations", "time",  "diverged",
    "failed", "interrupted", "stalled", "infeasible", "size",   "own",        "unbounded",   "proved"};

} // namespace

std::string_view status_word(Status status) {
  return words[static_cast<std::size_t>(status)];
}

std::optional<Status> status_from_word(std::string_view word) {
  for (std::size_t k = 0; k < words.size(); ++k) {
    if (words[k] == word) return static_cast<Status>(k);
  }
  return std::nullopt;
}

std::ostream& operator<<(std::ostream& out, Status status) {
  return out << status_word(status);
}

} // namespace tanzen
