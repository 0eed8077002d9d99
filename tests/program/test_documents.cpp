#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <filesystem>
#include <regex>

using testing::tanzen_line;
using testing::TemporaryFolder;

namespace {

namespace fs = std::filesystem;

std::vector<fs::path> documents() {
  std::vector<fs::path> found{fs::path(TANZEN_SOURCE) / "README.md", fs::path(TANZEN_SOURCE) / "CONTRIBUTING.md"};
  for (const auto& entry : fs::recursive_directory_iterator(fs::path(TANZEN_SOURCE) / "docs")) {
    if (entry.path().extension() == ".md") found.push_back(entry.path());
  }
  return found;
}

} // namespace

TEST_SUITE("documents") {
  TEST_CASE("every command shown is understood and runs") {
    const TemporaryFolder folder;
    fs::copy(fs::path(TANZEN_SOURCE) / "examples", folder.path() / "examples");
    int commands = 0;
    for (const auto& document : documents()) {
      const std::string text = tanzen::read_file(document);
      const std::regex command("\n(tanzen [a-z][^\n]*)");
      for (auto match = std::sregex_iterator(text.begin(), text.end(), command); match != std::sregex_iterator();
           ++match, ++commands) {
        CAPTURE((*match)[1].str());
        const auto result = tanzen_line((*match)[1].str(), folder.path());
        CAPTURE(result.err);
        CHECK(result.code <= 1); // a run shown for its failure does not converge, but no command is wrong
        CHECK(result.err.empty());
      }
    }
    CHECK(commands >= 50);
  }

  TEST_CASE("every link to a file leads somewhere") {
    const std::regex link("\\]\\(([^)#: ]+)\\)");
    for (const auto& document : documents()) {
      const std::string text = tanzen::read_file(document);
      for (auto match = std::sregex_iterator(text.begin(), text.end(), link); match != std::sregex_iterator();
           ++match) {
        CAPTURE((*match)[1].str());
        CHECK(fs::exists(document.parent_path() / (*match)[1].str()));
      }
    }
  }
}
