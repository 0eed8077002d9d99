#include "tanzen/search/proof.hpp"

#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

std::string_view in_words(Proof::Holds holds) {
  switch (holds) {
  case Proof::Holds::one: return ", exactly one there";
  case Proof::Holds::some: return ", at least one there";
  case Proof::Holds::unknown: return ", possibly none";
  }
  return "";
}

/// The middle, as far as digits are told, and how far the box reaches from what is told.
std::string place_text(const Proof::MinimizerBox& box) {
  const int digits = box.lower.size() <= 3 ? 15 : 8;
  std::vector<std::string> middle;
  double reach = 0;
  for (Index i = 0; i < box.lower.size(); ++i) {
    middle.push_back(short_number(0.5 * (box.lower[i] + box.upper[i]), digits));
    const double told = read_number(middle.back()).value_or(box.lower[i]);
    reach = std::max({reach, told - box.lower[i], box.upper[i] - told});
  }
  return fmt::format("({}) within {}", joined(middle, ", "), number_at_least(reach, 2));
}

} // namespace

std::string_view reason_word(Proof::Reason reason) {
  switch (reason) {
  case Proof::Reason::value: return "value too high";
  case Proof::Reason::constraint: return "infeasible";
  case Proof::Reason::slope: return "rises or falls";
  case Proof::Reason::curvature: return "concave";
  case Proof::Reason::newton: return "Newton step";
  case Proof::Reason::convexity: return "bound from below";
  }
  return "";
}

std::string_view holds_word(Proof::Holds holds) {
  switch (holds) {
  case Proof::Holds::one: return "one";
  case Proof::Holds::some: return "some";
  case Proof::Holds::unknown: return "unknown";
  }
  return "";
}

Proof::Holds holds_from_word(std::string_view word) {
  for (const Proof::Holds each : {Proof::Holds::one, Proof::Holds::some}) {
    if (holds_word(each) == word) return each;
  }
  return Proof::Holds::unknown;
}

std::string to_text(const Proof& proof) {
  constexpr std::size_t most_shown = 8;
  std::string text =
      block_line("proved", fmt::format("within the region the best value lies from {} to {}",
                                       number_at_most(proof.lower, 15), number_at_least(proof.upper, 15)));
  for (std::size_t k = 0; k < std::min(proof.boxes.size(), most_shown); ++k) {
    const Proof::MinimizerBox& box = proof.boxes[k];
    text += block_line(k == 0 ? "minimizers" : "", place_text(box) + std::string(in_words(box.holds)));
  }
  if (proof.boxes.size() > most_shown)
    text += block_line(
        "", fmt::format("and {} boxes more; no global minimizer lies outside them", proof.boxes.size() - most_shown));
  else if (!proof.boxes.empty())
    text += block_line("", "no global minimizer lies elsewhere");
  return text;
}

} // namespace tanzen
