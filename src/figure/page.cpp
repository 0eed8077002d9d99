#include "tanzen/figure/page.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/files/write_file.hpp"

#include "figure_json.hpp"
#include "packed.hpp"
#include "page_assets.hpp"

#include <cstdlib>
#include <filesystem>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace tanzen {
namespace {

namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;

std::vector<fs::path> library_places() {
  std::vector<fs::path> folders;
  if (const char* share = std::getenv("TANZEN_SHARE"); share != nullptr && *share != '\0') folders.emplace_back(share);
  std::error_code error;
  const fs::path program = fs::read_symlink("/proc/self/exe", error);
  if (!error) {
    folders.push_back(program.parent_path() / "share" / "tanzen");
    folders.push_back(program.parent_path().parent_path() / "share" / "tanzen");
  }
  folders.emplace_back(page_assets::installed_share);
  return folders;
}

std::string plotting_library() {
  std::string looked;
  for (const fs::path& folder : library_places()) {
    const fs::path file = folder / page_assets::library_name;
    std::error_code error;
    const auto size = fs::file_size(file, error);
    if (!error && size == page_assets::library_size) return read_file(file);
    looked += fmt::format("{}{}{}", looked.empty() ? "" : ", ", file.string(), error ? "" : " (of another version)");
  }
  throw FileError(
      fmt::format("pages need the plotting library {} that ships with Tanzen, and it is not there; looked for: {}. "
                  "scripts/fetch_packages.sh fetches it and the next build puts it in its place; TANZEN_SHARE names "
                  "another folder",
                  page_assets::library_version, looked));
}

/// JSON inside a page: no text in it can end its element.
std::string in_element(const Json& data) {
  const std::string text = data.dump(-1, ' ', false, Json::error_handler_t::replace);
  std::string safe;
  safe.reserve(text.size());
  for (const char c : text) {
    if (c == '<')
      safe += "\\u003c";
    else
      safe += c;
  }
  return safe;
}

/// A hash as a content security policy wants it.
std::string pin(std::string_view hexadecimal) {
  std::vector<unsigned char> bytes;
  for (std::size_t k = 0; k + 1 < hexadecimal.size(); k += 2)
    bytes.push_back(static_cast<unsigned char>(std::stoi(std::string(hexadecimal.substr(k, 2)), nullptr, 16)));
  return fmt::format("'sha256-{}'", base64(bytes));
}

} // namespace

std::string escaped(std::string_view text) {
  std::string markup;
  for (const char c : text) {
    switch (c) {
    case '&': markup += "&amp;"; break;
    case '<': markup += "&lt;"; break;
    case '>': markup += "&gt;"; break;
    case '"': markup += "&quot;"; break;
    case '\'': markup += "&#39;"; break;
    default: markup += c;
    }
  }
  return markup;
}

std::string figure_place(std::size_t k, int heading) {
  return fmt::format("<section class=\"figure\" data-figure=\"{}\" data-heading=\"h{}\"></section>\n", k, heading);
}

std::string page_text(const Page& page) {
  const std::string library = plotting_library();
  Json data{{"figures", Json::array()}, {"details", Json::parse(page.details)}};
  for (const Figure& figure : page.figures) data["figures"].push_back(figure_json(figure));
  std::string text = fmt::format(
      "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n"
      "<meta http-equiv=\"Content-Security-Policy\" content=\"default-src 'none'; script-src {} {}; style-src "
      "'unsafe-inline'; img-src data: blob:; base-uri 'none'; form-action 'none'\">\n"
      "<meta name=\"viewport\" content=\"width=device-width, "
      "initial-scale=1\">\n<title>{}</title>\n<style>\n{}</style>\n"
      "</head>\n<body>\n{}",
      pin(page_assets::library_hash), pin(page_assets::script_hash), escaped(page.title), page_assets::style,
      page.body);
  text += fmt::format("<script type=\"application/json\" id=\"page-data\">{}</script>\n", in_element(data));
  text += fmt::format("<script>{}</script>\n<script>{}</script>\n</body>\n</html>\n", library, page_assets::script);
  return text;
}

} // namespace tanzen
