#pragma once

#include "tanzen/figure/figure.hpp"

#include <cstddef>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// A page that holds all that it needs and asks for nothing: its markup, and the figures whose places the markup names
/// (`figure_place`). Scripts are pinned by their hashes; what a name says is never read as markup.
struct Page {
  std::string title = {};
  std::string body = {};            ///< markup; texts in it went through `escaped`
  std::vector<Figure> figures = {}; ///< named by their places from 0
  std::string details = "null";     ///< more for the page's script, as JSON
};

/// The whole page as text. Throws FileError where the plotting library that ships with the program is not found:
/// in $TANZEN_SHARE, in share/tanzen beside the program or its folder, or where Tanzen was installed.
[[nodiscard]] std::string page_text(const Page& page);

/// A text as markup that shows it.
[[nodiscard]] std::string escaped(std::string_view text);

/// The markup where figure `k` of a page stands, under a heading of a level from 1 to 3.
[[nodiscard]] std::string figure_place(std::size_t k, int heading);

} // namespace tanzen
