#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <filesystem>
#include <fmt/format.h>
#include <map>
#include <regex>
#include <sstream>
#include <string>

namespace {

/// By header of the standard library, what public headers name of it.
const std::map<std::string, std::string>& names_of_headers() {
  static const std::map<std::string, std::string> names = {
      {"algorithm", "clamp copy max min sort"},
      {"array", "array"},
      {"bit", "bit_cast"},
      {"chrono", "chrono"},
      {"cmath", "abs exp isfinite isinf isnan log pow sqrt"},
      {"concepts", "copy_constructible integral invocable same_as"},
      {"coroutine", "coroutine_handle suspend_always"},
      {"cstddef", "byte ptrdiff_t size_t"},
      {"cstdint", "int32_t int64_t uint32_t uint64_t uint8_t"},
      {"cstdio", "FILE"},
      {"exception", "current_exception exception exception_ptr rethrow_exception"},
      {"filesystem", "filesystem"},
      {"functional", "function"},
      {"initializer_list", "initializer_list"},
      {"iosfwd", "ostream"},
      {"limits", "numeric_limits"},
      {"map", "map"},
      {"memory", "make_shared make_unique shared_ptr unique_ptr"},
      {"mutex", "mutex"},
      {"new", "launder"},
      {"numeric", "iota"},
      {"optional", "nullopt optional"},
      {"set", "set"},
      {"span", "span"},
      {"stdexcept", "logic_error runtime_error"},
      {"string", "string to_string"},
      {"string_view", "string_view"},
      {"type_traits", "invoke_result_t is_arithmetic_v is_enum_v is_integral_v is_same_v is_void_v remove_cvref_t"},
      {"utility", "exchange forward move pair swap"},
      {"variant", "variant"},
      {"vector", "vector"},
  };
  return names;
}

/// By name, the header that has it.
std::map<std::string, std::string> headers_of_names() {
  std::map<std::string, std::string> headers;
  for (const auto& [header, names] : names_of_headers()) {
    std::istringstream words(names);
    for (std::string name; words >> name;) headers[name] = header;
  }
  return headers;
}

} // namespace

TEST_SUITE("public headers") {
  // That each compiles on its own is tried with the standard library already read, which takes a third of the time.
  TEST_CASE("each includes what it names of the standard library, and of the library for texts") {
    const auto headers = headers_of_names();
    const std::regex comment("//[^\n]*"), name("\\bstd::([a-z0-9_]+)", std::regex::icase);
    int looked_at = 0;
    for (const auto& entry : std::filesystem::recursive_directory_iterator(TANZEN_SOURCE "/include")) {
      if (entry.path().extension() != ".hpp") continue;
      ++looked_at;
      CAPTURE(entry.path().filename().string());
      const std::string text = std::regex_replace(tanzen::read_file(entry.path()), comment, "");
      for (std::sregex_iterator at(text.begin(), text.end(), name), end; at != end; ++at) {
        const std::string used = (*at)[1];
        CAPTURE(used);
        REQUIRE_MESSAGE(headers.contains(used), "the table above lacks it");
        CHECK(testing::contains(text, fmt::format("#include <{}>", headers.at(used))));
      }
      if (testing::contains(text, "fmt::")) CHECK(testing::contains(text, "#include <fmt/"));
    }
    CHECK(looked_at > 200);
  }
}
