#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// What a row of a table tells of, by which readers may choose; empty where it is of none or of several.
struct RowSubject {
  std::string problem = {}, method = {};
};

/// How wide text is where nothing else says so, in characters.
inline constexpr std::size_t usual_width = 100;

/// A table of text: numbers to the right, words to the left.
class Table {
 public:
  enum class Align { left, right };
  struct Column {
    std::string heading = {};
    Align align;
  };
  struct Row {
    std::vector<std::string> cells = {};
    RowSubject about;
  };

  void column(std::string heading, Align align = Align::right);
  void row(std::vector<std::string> cells, RowSubject about = {});
  [[nodiscard]] const std::vector<Column>& columns() const { return columns_; }
  [[nodiscard]] const std::vector<Row>& rows() const { return rows_; }
  [[nodiscard]] bool empty() const { return rows_.empty(); }
  /// Every line indented by two, columns two apart, in at most so many characters: words go on under
  /// themselves, and what has no room stands in a further block behind the first column.
  [[nodiscard]] std::string text(std::size_t width = usual_width) const;
  /// For a page in Markdown, and for a paper (the package booktabs).
  [[nodiscard]] std::string markdown() const;
  [[nodiscard]] std::string latex() const;

 private:
  [[nodiscard]] std::vector<std::size_t> widths() const;
  [[nodiscard]] std::vector<std::size_t> fitted_widths(std::size_t width) const;
  [[nodiscard]] std::vector<std::vector<std::size_t>> blocks(const std::vector<std::size_t>& widths,
                                                             std::size_t width) const;

  std::vector<Column> columns_;
  std::vector<Row> rows_;
};

/// A text with what would mean something to Markdown, or to LaTeX, written as it is read.
[[nodiscard]] std::string safe_in_markdown(std::string_view text);
[[nodiscard]] std::string safe_in_latex(std::string_view text);

} // namespace tanzen
