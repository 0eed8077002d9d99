#include "page_renderer.hpp"

#include "tanzen/figure/page.hpp"

#include <array>
#include <fmt/format.h>

namespace tanzen {

std::span<const std::string_view> PageRenderer::endings() const {
  static constexpr std::array<std::string_view, 1> all = {".html"};
  return all;
}

std::string PageRenderer::drawn(const Figure& figure, std::string_view /*ending*/) const {
  const Page page{
      .title = figure.title, .body = fmt::format("<main>\n{}</main>\n", figure_place(0, 1)), .figures = {figure}};
  return page_text(page);
}

} // namespace tanzen
