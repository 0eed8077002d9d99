#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

bool is_digit(char c) {
  return c >= '0' && c <= '9';
}

/// Optimal string alignment distance (Damerau, 1964): insertions, deletions, substitutions, transpositions.
std::size_t edit_distance(std::string_view a, std::string_view b) {
  std::vector<std::size_t> before_last(b.size() + 1), last(b.size() + 1), current(b.size() + 1);
  for (std::size_t j = 0; j <= b.size(); ++j) last[j] = j;
  for (std::size_t i = 1; i <= a.size(); ++i) {
    current[0] = i;
    for (std::size_t j = 1; j <= b.size(); ++j) {
      const std::size_t substituted = last[j - 1] + (a[i - 1] == b[j - 1] ? 0 : 1);
      current[j] = std::min({last[j] + 1, current[j - 1] + 1, substituted});
      const bool swapped = i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1];
      if (swapped) current[j] = std::min(current[j], before_last[j - 2] + 1);
    }
    std::swap(before_last, last);
    std::swap(last, current);
  }
  return last[b.size()];
}

} // namespace

std::string number_text(double value) {
  return fmt::format("{}", value);
}

std::string short_number(double value, int digits) {
  return fmt::format("{:.{}g}", value, digits);
}

namespace {

/// A unit of the last digit further to a side, where the nearest number lies on the other one.
std::string bound_text(double value, int digits, double side) {
  std::string text = short_number(value, digits);
  const double told = read_number(text).value_or(value);
  if (!std::isfinite(value) || side * told >= side * value) return text;
  const double unit = std::pow(10, std::floor(std::log10(std::abs(value))) - digits + 1);
  // Next to nothing and next to the largest number there is no such unit.
  return std::abs(value) < 1e-290 || std::abs(value) > 1e300 ? number_text(value)
                                                             : short_number(told + side * unit, digits);
}

} // namespace

std::string number_at_least(double value, int digits) {
  return bound_text(value, digits, 1);
}
std::string number_at_most(double value, int digits) {
  return bound_text(value, digits, -1);
}

std::optional<double> read_number(std::string_view text) {
  text = trimmed(text);
  if (text.starts_with('+')) text.remove_prefix(1);
  double value = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc{} || end != text.data() + text.size()) return std::nullopt;
  return value;
}

std::string_view trimmed(std::string_view text) {
  const auto is_space = [](char c) { return c == ' ' || c == '\t' || c == '\n' || c == '\r'; };
  while (!text.empty() && is_space(text.front())) text.remove_prefix(1);
  while (!text.empty() && is_space(text.back())) text.remove_suffix(1);
  return text;
}

std::vector<std::string> split(std::string_view text, char separator) {
  std::vector<std::string> pieces;
  for (;;) {
    const std::size_t end = text.find(separator);
    pieces.emplace_back(trimmed(text.substr(0, end)));
    if (end == std::string_view::npos) return pieces;
    text.remove_prefix(end + 1);
  }
}

std::string joined(std::span<const std::string> pieces, std::string_view separator) {
  return fmt::format("{}", fmt::join(pieces, separator));
}

std::optional<std::string> nearest_name(std::string_view word, std::span<const std::string> names) {
  constexpr std::size_t longest_misspelt = 40; // a longer word is no misspelling, and would cost time
  if (word.size() > longest_misspelt) return std::nullopt;
  std::optional<std::string> nearest;
  std::size_t least = std::max<std::size_t>(1, word.size() / 3) + 1;
  for (const std::string& name : names) {
    const bool is_start = word.size() >= 3 && name.starts_with(word);
    const std::size_t distance = is_start ? 1 : edit_distance(word, name);
    if (distance < least) {
      least = distance;
      nearest = name;
    }
  }
  return nearest;
}

std::string did_you_mean(std::string_view word, std::span<const std::string> names) {
  const auto name = nearest_name(word, names);
  return name ? fmt::format("; did you mean '{}'?", *name) : std::string();
}

std::string clipped(std::string_view text, std::size_t longest) {
  if (text.size() <= longest) return std::string(text);
  while (longest > 0 && (static_cast<unsigned char>(text[longest]) & 0xC0U) == 0x80U) --longest;
  return std::string(text.substr(0, longest)) + "...";
}

std::size_t character_count(std::string_view text) {
  return static_cast<std::size_t>(
      std::count_if(text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) != 0x80U; }));
}

std::vector<std::string> wrapped(std::string_view text, std::size_t width) {
  std::vector<std::string> lines;
  for (std::string_view rest = trimmed(text); !rest.empty(); rest = trimmed(rest)) {
    // The last blank within the width, or the first one after it.
    std::size_t cut = rest.size(), characters = 0;
    bool has_blank = false;
    for (std::size_t k = 0; k < rest.size() && (characters <= width || !has_blank); ++k) {
      if (rest[k] == ' ') {
        cut = k;
        has_blank = true;
      }
      characters += character_count(rest.substr(k, 1));
    }
    if (characters <= width) cut = rest.size();
    lines.emplace_back(trimmed(rest.substr(0, cut)));
    rest.remove_prefix(cut);
  }
  return lines;
}

std::string counted(long long count, std::string_view singular) {
  return fmt::format("{} {}{}", count, singular, count == 1 ? "" : "s");
}

std::string block_line(std::string_view label, std::string_view text) {
  return fmt::format("  {:<13} {}\n", label, text);
}

bool natural_less(std::string_view left, std::string_view right) {
  std::size_t i = 0, j = 0;
  while (i < left.size() && j < right.size()) {
    if (is_digit(left[i]) && is_digit(right[j])) {
      const auto number_end = [](std::string_view text, std::size_t k) {
        while (k < text.size() && is_digit(text[k])) ++k;
        return k;
      };
      while (i + 1 < left.size() && left[i] == '0' && is_digit(left[i + 1])) ++i;
      while (j + 1 < right.size() && right[j] == '0' && is_digit(right[j + 1])) ++j;
      const std::size_t i_end = number_end(left, i), j_end = number_end(right, j);
      const auto a = left.substr(i, i_end - i), b = right.substr(j, j_end - j);
      if (a.size() != b.size()) return a.size() < b.size();
      if (a != b) return a < b;
      i = i_end;
      j = j_end;
    } else {
      if (left[i] != right[j]) return left[i] < right[j];
      ++i;
      ++j;
    }
  }
  const std::size_t left_rest = left.size() - i, right_rest = right.size() - j;
  return left_rest != right_rest ? left_rest < right_rest : left < right;
}

} // namespace tanzen
