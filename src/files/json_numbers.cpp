#include "json_numbers.hpp"

namespace tanzen::files {

std::string json_text(const Json& json) {
  return json.dump(-1, ' ', false, Json::error_handler_t::replace);
}

Json json_in(std::string_view text) {
  return Json::parse(text, nullptr, false);
}

} // namespace tanzen::files
