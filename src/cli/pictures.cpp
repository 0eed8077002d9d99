#include "pictures.hpp"

#include "arguments.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/render.hpp"
#include "tanzen/report/report.hpp"
#include "tanzen/search/outcome.hpp"
#include "tanzen/version.hpp"

namespace tanzen::cli {
namespace {

Report report_of(const Context& context, const std::string& title, std::optional<Figure> figure) {
  Report report{.title = title, .sections = {}};
  report.sections.push_back(
      {"What was asked",
       {Verbatim{"Command", context.command},
        Paragraph{fmt::format("Written by Tanzen {}; the command does the same again.", version)}}});
  report.sections.push_back({"What came out", {Verbatim{"Printed", *context.printed}}});
  if (figure) report.sections.push_back({"The figures", {GroupFigure{std::move(*figure)}}});
  return report;
}

} // namespace

void PictureArguments::add_to(const Command& command, const char* what, bool films) {
  const char* endings = films ? "a .png, .svg, .pdf, .html, .gif or .mp4 file" : "a .png, .svg, .pdf or .html file";
  command.takes("--figure", figure, "FILE", fmt::format("draw {}: {}", what, endings).c_str());
  add_report_to(command);
  if (films) add_film_to(command);
}

void PictureArguments::add_report_to(const Command& command) {
  command.takes("--report", report, "FILE", "a page of it all for colleagues: .html, .md, .tex or .txt");
}

void PictureArguments::add_film_to(const Command& command) {
  add_number(command, "--seconds-of-film", seconds, "how long a figure that moves takes (10, or less)", 0);
  add_count(command, "--frames", frames, "how many pictures a film has at most (480; .gif 60, .mp4 300)");
}

void PictureArguments::check(std::initializer_list<OutputFile> others) const {
  if (!figure.empty()) check_figure_name(figure);
  if (!report.empty()) check_report_name(report);
  if (frames && *frames < 2) throw InputError("--frames: a film has at least 2");
  if (seconds && !(*seconds > 0)) throw InputError("--seconds-of-film must be positive");
  std::vector<OutputFile> files(others);
  files.insert(files.end(), {{"--figure", figure}, {"--report", report}});
  check_outputs(files);
}

Figure PictureArguments::filmed(Figure drawn) const {
  if (frames) drawn = with_frames(std::move(drawn), static_cast<std::size_t>(*frames));
  if (seconds) drawn.seconds = *seconds;
  return drawn;
}

void PictureArguments::write(const Context& context, const std::string& title, const std::function<Figure()>& make,
                             bool quiet) const {
  if (!asked_for()) return;
  std::optional<Figure> drawn;
  if (make) drawn = filmed(make());
  const auto say = [&](const char* what, const std::string& file) {
    if (!quiet) context.print("{}", block_line(what, file));
  };
  if (!figure.empty()) {
    render(drawn.value(), figure);
    say("figure", figure);
  }
  if (report.empty()) return;
  write_report(report_of(context, title, std::move(drawn)), report);
  say("report", report);
}

} // namespace tanzen::cli
