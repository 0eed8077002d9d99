#include "tanzen/figure/render.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/write_file.hpp"

#include "film_renderer.hpp"
#include "gnuplot_renderer.hpp"
#include "page_renderer.hpp"
#include "ready_figure.hpp"

#include <algorithm>
#include <array>
#include <fmt/format.h>
#include <utility>

namespace tanzen {
namespace {

/// The renderer of a file name; null where there is none.
const Renderer* renderer_for(const std::filesystem::path& path) {
  const std::string ending = path.extension().string();
  for (const Renderer* renderer : renderers()) {
    if (std::ranges::find(renderer->endings(), ending) != renderer->endings().end()) return renderer;
  }
  return nullptr;
}

/// `.png, .svg or .html`.
std::string all_endings() {
  std::vector<std::string> endings;
  for (const Renderer* renderer : renderers()) {
    for (const std::string_view ending : renderer->endings()) endings.emplace_back(ending);
  }
  const std::string last = endings.back();
  endings.pop_back();
  return fmt::format("{} or {}", joined(endings, ", "), last);
}

/// How the files of each ending end, where one that was cut off does not. Most go on with white space.
constexpr std::array<std::pair<std::string_view, std::string_view>, 5> last_bytes = {{
    {".png", std::string_view("IEND\xae\x42\x60\x82", 8)},
    {".svg", "</svg>"},
    {".pdf", "%%EOF"},
    {".gif", ";"},
    {".html", "</html>"},
}};

/// Throws FileError where a picture is not whole.
void check_whole(std::string_view content, std::string_view ending) {
  if (content.empty()) throw FileError("nothing was drawn");
  const auto known = std::ranges::find(last_bytes, ending, [](const auto& each) { return each.first; });
  if (known != last_bytes.end() && !trimmed(content).ends_with(known->second))
    throw FileError(fmt::format("the picture ends before its end, after {} bytes", content.size()));
}

} // namespace

std::span<const Renderer* const> renderers() {
  static const GnuplotRenderer gnuplot;
  static const PageRenderer pages;
  static const FilmRenderer films;
  static constexpr std::array<const Renderer*, 3> all = {&gnuplot, &pages, &films};
  return all;
}

void check_figure_name(const std::filesystem::path& path) {
  if (renderer_for(path) == nullptr)
    throw InputError(fmt::format("a figure is drawn as {}, not '{}'", all_endings(), path.filename().string()));
}

void render(const Figure& figure, const std::filesystem::path& path) {
  check_figure_name(path);
  const Figure ready = ready_figure(figure);
  const std::string ending = path.extension().string();
  std::string content;
  try {
    content = renderer_for(path)->drawn(ready, ending);
    check_whole(content, ending);
  } catch (const FileError& error) {
    throw FileError(fmt::format("cannot draw {}: {}", path.string(), error.what()));
  }
  write_file(path, content);
}

} // namespace tanzen
