#include "page_renderer.hpp"

#include "tanzen/figure/page.hpp"
#include "tanzen/files/write_file.hpp"

#include <array>
#include <fmt/format.h>

namespace tanzen {

std::span<const std::string_view> PageRenderer::endings() const {
  static constexpr std::array<std::string_view, 1> all = {".html"};
  return all;
}

void PageRenderer::draw(const Figure& figure, const std::filesystem::path& path) const {
  const Page page{
      .title = figure.title, .body = fmt::format("<main>\n{}</main>\n", figure_place(0, 1)), .figures = {figure}};
  write_file(path, page_text(page));
}

} // namespace tanzen
