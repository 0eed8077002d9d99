#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// What a row of a table tells of, by which readers may choose; empty where it is of none or of several.
struct RowSubject {
  std::string problem = {}, method = {};
};

/// A table of text: numbers to the right, words to the left.
class Table {
 public:
  enum class Align { left, right };
  struct Column {
    std::string heading;
    Align align;
  };
  struct Row {
    std::vector<std::string> cells;
    RowSubject about;
  };

  void column(std::string heading, Align align = Align::right);
  void row(std::vector<std::string> cells, RowSubject about = {});
  [[nodiscard]] const std::vector<Column>& columns() const { return columns_; }
  [[nodiscard]] const std::vector<Row>& rows() const { return rows_; }
  [[nodiscard]] bool empty() const { return rows_.empty(); }
  /// Every line indented by two, columns two apart.
  [[nodiscard]] std::string text() const;
  /// For a page in Markdown, and for a paper (the package booktabs).
  [[nodiscard]] std::string markdown() const;
  [[nodiscard]] std::string latex() const;

 private:
  [[nodiscard]] std::string line(const std::vector<std::string>& cells, const std::vector<std::size_t>& widths) const;

  std::vector<Column> columns_;
  std::vector<Row> rows_;
};

/// A text with what would mean something to LaTeX written as it is read.
[[nodiscard]] std::string safe_in_latex(std::string_view text);

} // namespace tanzen
