#include "tanzen/figure/render.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/write_file.hpp"

#include "film_renderer.hpp"
#include "gnuplot_renderer.hpp"
#include "page_renderer.hpp"

#include <algorithm>
#include <array>
#include <fmt/format.h>

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

/// A file that goes away with its owner.
struct TemporaryPicture {
  std::filesystem::path path;
  ~TemporaryPicture() {
    std::error_code ignored;
    std::filesystem::remove(path, ignored);
  }
};

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
  if (figure.panels.empty()) throw InputError("a figure needs at least one panel");
  const TemporaryPicture picture{temporary_beside(path)};
  try {
    renderer_for(path)->draw(figure, picture.path);
  } catch (const FileError& error) {
    throw FileError(fmt::format("cannot draw {}: {}", path.string(), error.what()));
  }
  move_into_place(picture.path, path);
}

} // namespace tanzen
