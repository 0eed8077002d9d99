#include "tanzen/report/report.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/write_file.hpp"

#include <array>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// How the parts of a report are written in a form that is read as text.
class TextForm {
 public:
  TextForm() = default;
  TextForm(const TextForm&) = delete;
  TextForm& operator=(const TextForm&) = delete;
  virtual ~TextForm() = default;
  [[nodiscard]] virtual std::string title(const std::string& text) const = 0;
  [[nodiscard]] virtual std::string heading(const std::string& text) const = 0;
  [[nodiscard]] virtual std::string paragraph(const std::string& text) const = 0;
  [[nodiscard]] virtual std::string lines(const std::vector<std::string>& texts) const = 0;
  [[nodiscard]] virtual std::string table(const TitledTable& table) const = 0;
  [[nodiscard]] virtual std::string verbatim(const Verbatim& text) const = 0;

  [[nodiscard]] std::string write(const Report& report) const {
    std::string text = title(report.title);
    for (const ReportSection& section : report.sections) {
      std::string inside;
      for (const ReportBlock& block : section.blocks)
        inside += std::visit([this](const auto& content) { return part(content); }, block);
      if (!inside.empty()) text += heading(section.title) + inside;
    }
    return text;
  }

 private:
  [[nodiscard]] std::string part(const Paragraph& content) const { return paragraph(content.text); }
  [[nodiscard]] std::string part(const LineList& content) const {
    return content.lines.empty() ? "" : lines(content.lines);
  }
  [[nodiscard]] std::string part(const TitledTable& content) const { return table(content); }
  [[nodiscard]] std::string part(const Verbatim& content) const { return verbatim(content); }
  [[nodiscard]] std::string part(const GroupFigure& content) const {
    return content.folded ? ""
                          : paragraph(fmt::format("Figure: {} ({})", content.figure.title, content.figure.caption));
  }
};

std::string indented(const std::string& text, const char* by) {
  std::string result;
  for (const std::string& line : split(text, '\n')) result += line.empty() ? "\n" : fmt::format("{}{}\n", by, line);
  return result;
}

class PlainForm final : public TextForm {
  [[nodiscard]] std::string title(const std::string& text) const override {
    return fmt::format("{}\n{}\n", text, std::string(character_count(text), '='));
  }
  [[nodiscard]] std::string heading(const std::string& text) const override {
    return fmt::format("\n{}\n{}\n", text, std::string(character_count(text), '-'));
  }
  [[nodiscard]] std::string paragraph(const std::string& text) const override { return fmt::format("\n{}\n", text); }
  [[nodiscard]] std::string lines(const std::vector<std::string>& texts) const override {
    std::string all = "\n";
    for (const std::string& text : texts) all += fmt::format("  {}\n", text);
    return all;
  }
  [[nodiscard]] std::string table(const TitledTable& content) const override {
    return fmt::format("\n{}\n\n{}", content.title, content.table.text());
  }
  [[nodiscard]] std::string verbatim(const Verbatim& content) const override {
    return fmt::format("\n{}:\n\n{}", content.title, indented(content.text, "    "));
  }
};

class MarkdownForm final : public TextForm {
  [[nodiscard]] std::string title(const std::string& text) const override {
    return fmt::format("# {}\n", safe_in_markdown(text));
  }
  [[nodiscard]] std::string heading(const std::string& text) const override {
    return fmt::format("\n## {}\n", safe_in_markdown(text));
  }
  [[nodiscard]] std::string paragraph(const std::string& text) const override {
    return fmt::format("\n{}\n", safe_in_markdown(text));
  }
  [[nodiscard]] std::string lines(const std::vector<std::string>& texts) const override {
    std::string all = "\n";
    for (const std::string& text : texts) all += fmt::format("- {}\n", safe_in_markdown(text));
    return all;
  }
  [[nodiscard]] std::string table(const TitledTable& content) const override {
    return fmt::format("\n**{}**\n\n{}", safe_in_markdown(content.title), content.table.markdown());
  }
  [[nodiscard]] std::string verbatim(const Verbatim& content) const override {
    return fmt::format("\n{}:\n\n{}", safe_in_markdown(content.title), indented(content.text, "    "));
  }
};

class LatexForm final : public TextForm {
  [[nodiscard]] std::string title(const std::string& text) const override {
    return fmt::format("\\section*{{{}}}\n", safe_in_latex(text));
  }
  [[nodiscard]] std::string heading(const std::string& text) const override {
    return fmt::format("\n\\subsection*{{{}}}\n", safe_in_latex(text));
  }
  [[nodiscard]] std::string paragraph(const std::string& text) const override {
    return fmt::format("\n{}\n", safe_in_latex(text));
  }
  [[nodiscard]] std::string lines(const std::vector<std::string>& texts) const override {
    std::string all = "\n\\begin{itemize}\n";
    for (const std::string& text : texts) all += fmt::format("  \\item {}\n", safe_in_latex(text));
    return all + "\\end{itemize}\n";
  }
  [[nodiscard]] std::string table(const TitledTable& content) const override {
    return fmt::format("\n\\paragraph{{{}}}\n\n{}", safe_in_latex(content.title), content.table.latex());
  }
  [[nodiscard]] std::string verbatim(const Verbatim& content) const override {
    // A listing ends at its own last line only where nothing in it says so.
    std::string text = content.text;
    for (std::size_t at = 0; (at = text.find("\\end{verbatim}", at)) != std::string::npos; at += 5)
      text.replace(at, 5, "\\ end{");
    return fmt::format("\n\\paragraph{{{}}}\n\\begin{{verbatim}}\n{}\\end{{verbatim}}\n", safe_in_latex(content.title),
                       indented(text, ""));
  }
};

using Writer = std::string (*)(const Report&);

struct ReportForm {
  std::string_view ending;
  Writer write;
};

constexpr std::array<ReportForm, 4> forms = {
    {{".html", report_to_page}, {".md", report_to_markdown}, {".tex", report_to_latex}, {".txt", report_to_text}}};

const ReportForm& form_of(const std::filesystem::path& path) {
  for (const ReportForm& form : forms) {
    if (path.extension() == form.ending) return form;
  }
  throw InputError(fmt::format("a report is written as .html, .md, .tex or .txt, not '{}'", path.filename().string()));
}

} // namespace

std::string report_to_text(const Report& report) {
  return PlainForm().write(report);
}

std::string report_to_markdown(const Report& report) {
  return MarkdownForm().write(report);
}

std::string report_to_latex(const Report& report) {
  return LatexForm().write(report);
}

void check_report_name(const std::filesystem::path& path) {
  (void)form_of(path);
}

void write_report(const Report& report, const std::filesystem::path& path) {
  write_file(path, form_of(path).write(report));
}

} // namespace tanzen
