#pragma once

#include <string>
#include <vector>

namespace tanzen {

/// A table of text: numbers to the right, words to the left.
class Table {
 public:
  enum class Align { left, right };

  void column(std::string heading, Align align = Align::right);
  void row(std::vector<std::string> cells);
  [[nodiscard]] bool empty() const { return rows_.empty(); }
  /// Every line indented by two, columns two apart.
  [[nodiscard]] std::string text() const;
  /// For a page in Markdown, and for a paper (the package booktabs).
  [[nodiscard]] std::string markdown() const;
  [[nodiscard]] std::string latex() const;

 private:
  struct Column {
    std::string heading;
    Align align;
  };
  [[nodiscard]] std::string line(const std::vector<std::string>& cells, const std::vector<std::size_t>& widths) const;

  std::vector<Column> columns_;
  std::vector<std::vector<std::string>> rows_;
};

} // namespace tanzen
