#include "lines.hpp"

#include "tanzen/base/text.hpp"

#include <algorithm>
#include <sys/ioctl.h>
#include <unistd.h>

namespace tanzen::cli {

std::size_t line_width(std::FILE* out) {
  constexpr std::size_t least = 80, usual = 100;
  winsize size{};
  if (isatty(fileno(out)) == 0 || ioctl(fileno(out), TIOCGWINSZ, &size) != 0) return usual;
  return std::max<std::size_t>(least, size.ws_col);
}

std::string fitted(const std::string& text, std::size_t width) {
  constexpr std::size_t beside_label = 16, least_room = 20;
  std::string result;
  for (std::string_view rest = text; !rest.empty();) {
    const std::size_t end = std::min(rest.find('\n'), rest.size());
    const std::string_view line = rest.substr(0, end);
    const std::size_t indent = std::min(line.find_first_not_of(' '), line.size());
    // A label ends with two blanks, or where the texts of a block begin.
    const std::size_t gap = line.find("  ", indent);
    const bool has_label = indent >= beside_label || gap < beside_label || line.substr(0, beside_label).ends_with(' ');
    const std::size_t under = has_label ? std::max(indent, beside_label) : indent;
    const std::size_t begin = std::min(line.find_first_not_of(' ', under), line.size());
    if (indent < 2 || character_count(line) <= width || begin + least_room > width) {
      result += line;
    } else {
      const std::vector<std::string> beside = wrapped(line.substr(begin), width - begin);
      result += line.substr(0, begin);
      result += beside.front();
      for (const std::string& below : wrapped(line.substr(begin).substr(beside.front().size()), width - under)) {
        result += '\n';
        result.append(under, ' ');
        result += below;
      }
    }
    if (end < rest.size()) result += '\n';
    rest.remove_prefix(std::min(end + 1, rest.size()));
  }
  return result;
}

} // namespace tanzen::cli
