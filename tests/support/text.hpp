#pragma once

#include <algorithm>
#include <string>
#include <string_view>
#include <vector>

/// What tests ask of texts.
namespace testing {

[[nodiscard]] inline bool contains(std::string_view text, std::string_view part) {
  return text.find(part) != std::string_view::npos;
}

/// Whether one of several texts has a part: a hint of a diagnosis, say.
[[nodiscard]] inline bool one_contains(const std::vector<std::string>& texts, std::string_view part) {
  return std::ranges::any_of(texts, [part](const std::string& text) { return contains(text, part); });
}

/// Whether what was found of a run has such a hint.
[[nodiscard]] bool has_hint(const auto& found, std::string_view part) {
  return one_contains(found.hints, part);
}

[[nodiscard]] inline std::vector<std::string> lines_of(std::string_view text) {
  std::vector<std::string> lines;
  while (!text.empty()) {
    const std::size_t end = std::min(text.find('\n'), text.size());
    lines.emplace_back(text.substr(0, end));
    text.remove_prefix(std::min(end + 1, text.size()));
  }
  return lines;
}

/// A file of the examples, with its whole path.
[[nodiscard]] inline std::string example_file(std::string_view name) {
  return std::string(TANZEN_SOURCE "/examples/").append(name);
}

} // namespace testing
