#include "tanzen/figure/comparison_figures.hpp"
#include "tanzen/figure/page.hpp"
#include "tanzen/report/report.hpp"

#include <cmath>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace tanzen {
namespace {

using Json = nlohmann::ordered_json;

/// Writes the markup of a report and gathers the figures that it names.
class PageWriter {
 public:
  explicit PageWriter(Page& page) : page_(page) {}

  void write(const Report& report) {
    page_.body = fmt::format("<header><h1>{}</h1><nav aria-label=\"sections\"><ol>", escaped(report.title));
    for (std::size_t k = 0; k < report.sections.size(); ++k)
      page_.body += fmt::format("<li><a href=\"#section-{}\">{}</a></li>", k, escaped(report.sections[k].title));
    page_.body += "</ol></nav></header>\n<div id=\"choice\"></div>\n<main class=\"report\">\n";
    for (std::size_t k = 0; k < report.sections.size(); ++k) {
      page_.body += fmt::format("<section id=\"section-{}\">\n<h2>{}</h2>\n", k, escaped(report.sections[k].title));
      for (const ReportBlock& block : report.sections[k].blocks)
        std::visit([this](const auto& content) { add(content); }, block);
      page_.body += "</section>\n";
    }
    page_.body += "</main>\n";
  }

 private:
  void add(const Paragraph& content) { page_.body += fmt::format("<p>{}</p>\n", escaped(content.text)); }

  void add(const LineList& content) {
    if (content.lines.empty()) return;
    page_.body += "<ul>";
    for (const std::string& line : content.lines) page_.body += fmt::format("<li>{}</li>", escaped(line));
    page_.body += "</ul>\n";
  }

  void add(const Verbatim& content) {
    page_.body +=
        fmt::format("<h3>{}</h3>\n<pre tabindex=\"0\">{}</pre>\n", escaped(content.title), escaped(content.text));
  }

  void add(const TitledTable& content) {
    page_.body += fmt::format("<div class=\"wide\" tabindex=\"0\" role=\"region\" aria-label=\"{0}\"><table>"
                              "<caption>{0}</caption>\n<thead><tr>",
                              escaped(content.title));
    const auto& columns = content.table.columns();
    for (const Table::Column& column : columns)
      page_.body += fmt::format("<th scope=\"col\"{}>{}</th>", align(column), escaped(column.heading));
    page_.body += "</tr></thead>\n<tbody>\n";
    for (const Table::Row& row : content.table.rows()) {
      page_.body += fmt::format("<tr data-problem=\"{}\" data-method=\"{}\">", escaped(row.about.problem),
                                escaped(row.about.method));
      for (std::size_t k = 0; k < columns.size(); ++k)
        page_.body += fmt::format("<td{}>{}</td>", align(columns[k]), escaped(row.cells[k]));
      page_.body += "</tr>\n";
    }
    page_.body += "</tbody></table></div>\n";
  }

  void add(const GroupFigure& content) {
    page_.body += fmt::format("<section class=\"figure\" data-figure=\"{}\" data-heading=\"h3\" data-group=\"{}\"{}>"
                              "</section>\n",
                              page_.figures.size(), escaped(content.group),
                              content.folded ? fmt::format(" data-folded=\"{}\"", escaped(content.figure.title)) : "");
    page_.figures.push_back(content.figure);
  }

  static const char* align(const Table::Column& column) {
    return column.align == Table::Align::right ? " class=\"number\"" : "";
  }

  Page& page_;
};

Json numbers(const std::vector<double>& values) {
  Json list = Json::array();
  for (const double value : values) list.push_back(std::isfinite(value) ? Json(value) : Json());
  return list;
}

Json choice_of(const ReportChoice& choice) {
  Json methods = Json::array(), groups = Json::array(), runs = Json::array();
  for (std::size_t m = 0; m < choice.methods.size(); ++m) {
    const MethodStyle style = method_style(m);
    methods.push_back({{"name", choice.methods[m]}, {"color", style.color}, {"dash", style.dash}});
  }
  for (const ReportChoice::Group& group : choice.groups)
    groups.push_back({{"name", group.name}, {"problems", group.problems}});
  for (const ReportRun& run : choice.runs)
    runs.push_back({{"problem", run.problem},
                    {"method", run.method},
                    {"about", run.about},
                    {"cost", numbers(run.cost)},
                    {"gap", numbers(run.gap)}});
  return {{"methods", std::move(methods)}, {"groups", std::move(groups)}, {"runs", std::move(runs)}};
}

} // namespace

std::string report_to_page(const Report& report) {
  Page page{.title = report.title, .body = {}, .figures = {}, .details = {}};
  PageWriter(page).write(report);
  page.details = choice_of(report.choice).dump(-1, ' ', false, Json::error_handler_t::replace);
  return page_text(page);
}

} // namespace tanzen
