#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/report/table.hpp"

#include <filesystem>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace tanzen {

/// A table with the words above it.
struct TitledTable {
  std::string title = {};
  Table table;
};

struct Paragraph {
  std::string text = {};
};

/// Sentences or lines, each of its own.
struct LineList {
  std::vector<std::string> lines = {};
};

/// Text to be kept as it is: a command, a plan, what a program printed.
struct Verbatim {
  std::string title = {};
  std::string text = {};
};

/// A figure over some of the problems. Where a reader can choose, those of one group are shown at a time.
struct GroupFigure {
  Figure figure;
  std::string group = {}; ///< empty: whatever is chosen
  bool folded = false;    ///< shown when it is asked for
};

using ReportBlock = std::variant<Paragraph, LineList, TitledTable, Verbatim, GroupFigure>;

struct ReportSection {
  std::string title = {};
  std::vector<ReportBlock> blocks = {};
};

/// A run that a reader may look at: how its gap fell.
struct ReportRun {
  std::string problem = {}, method = {}, about = {}; ///< `about` says what became of it
  std::vector<double> cost = {}, gap = {};
};

/// What readers may choose: problems by group, methods with their colours.
struct ReportChoice {
  struct Group {
    std::string name = {};
    std::vector<std::string> problems = {};
  };
  std::vector<Group> groups = {};
  std::vector<std::string> methods = {};
  std::vector<ReportRun> runs = {};
};

/// What is said and shown of runs, in the order that a reader asks. All forms are written from it, so that they say the
/// same; figures and choices are for pages, other forms name the figures.
struct Report {
  std::string title = {};
  std::vector<ReportSection> sections = {};
  ReportChoice choice = {};
};

/// Plain text for a terminal, Markdown, LaTeX (sections and tables of the package booktabs).
[[nodiscard]] std::string report_to_text(const Report& report);
[[nodiscard]] std::string report_to_markdown(const Report& report);
[[nodiscard]] std::string report_to_latex(const Report& report);
/// One page that holds all it needs. Throws FileError where the plotting library is missing.
[[nodiscard]] std::string report_to_page(const Report& report);

/// Throws InputError unless a report can be written under that name: .html, .md, .tex or .txt.
void check_report_name(const std::filesystem::path& path);

/// Writes the form of the file's ending, whole or not at all. Throws as `check_report_name` and FileError.
void write_report(const Report& report, const std::filesystem::path& path);

} // namespace tanzen
