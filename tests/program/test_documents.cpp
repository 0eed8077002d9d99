#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"
#include "support/sanitized.hpp"

#include <doctest/doctest.h>

#include <filesystem>
#include <map>
#include <regex>
#include <string>

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

/// With one space for any, and no times, which differ from run to run.
std::string without_layout(std::string text) {
  text = std::regex_replace(text, std::regex("[0-9.]+ (ms|s|min)\\b"), "time");
  return std::regex_replace(text, std::regex("\\s+"), " ");
}

/// The parts of a document that stand as what the program printed.
std::vector<std::string> printed_blocks(const std::string& text) {
  const std::regex block("\n```\n(  [A-Za-z][^`]*)```");
  std::vector<std::string> found;
  for (auto match = std::sregex_iterator(text.begin(), text.end(), block); match != std::sregex_iterator(); ++match)
    found.push_back((*match)[1].str());
  return found;
}

/// Five acts, with traces, pictures and a report in a folder that it names; what it proposes works as printed.
void check_demo(const testing::ProgramResult& result, const fs::path& folder) {
  const std::string& printed = result.out;
  CHECK(result.code == 0);
  for (const char* part : {"1. One variable", "2. The step", "3. Three methods", "4. All minima", "5. A campaign",
                           "On multimodal, 9 problems: the methods differ", "What to try next", "in tanzen-demo/",
                           "report        tanzen-demo/5-families.report.html"})
    CHECK(testing::contains(printed, part));
  for (const char* name : {"1-firing.png", "1-firing.csv", "2-step-0.25.png", "2-step-0.5.csv",
                           "3-flame-nelder-mead.png", "3-crackle-differential-evolution.csv", "4-glaze.png",
                           "5-families.results.sqlite", "5-figures/ranks.png", "5-families.report.html"})
    CHECK(fs::file_size(folder / "tanzen-demo" / name) > 500);
  int commands = 0;
  const std::regex command("\n  (tanzen [^\n]+)");
  for (auto match = std::sregex_iterator(printed.begin(), printed.end(), command); match != std::sregex_iterator();
       ++match, ++commands) {
    CAPTURE((*match)[1].str());
    CHECK(tanzen_line((*match)[1].str(), folder).code == 0);
  }
  CHECK(commands == 5);
}

} // namespace

TEST_SUITE("documents") {
  TEST_CASE("every command shown is understood and runs, and prints what is shown of it") {
    const TemporaryFolder folder;
    fs::copy(fs::path(TANZEN_SOURCE) / "examples", folder.path() / "examples");
    fs::copy(fs::path(TANZEN_SOURCE) / "data", folder.path() / "data", fs::copy_options::recursive);
    int commands = 0, blocks = 0;
    std::map<std::string, std::string> printed_by; // one that is shown in several places runs once
    for (const auto& document : documents()) {
      const std::string text = tanzen::read_file(document);
      const std::regex command("\n(tanzen [a-z][^\n]*)");
      std::string printed;
      for (auto match = std::sregex_iterator(text.begin(), text.end(), command); match != std::sregex_iterator();
           ++match, ++commands) {
        const std::string line = (*match)[1].str();
        const bool is_film = testing::contains(line, ".gif");
        if (is_film && testing::is_sanitized) continue; // one picture many times
        const auto [known, is_new] = printed_by.try_emplace(line);
        if (is_new) {
          CAPTURE(line);
          const auto result = tanzen_line(line, folder.path());
          CAPTURE(result.err);
          CHECK(result.code <= 1); // a run shown for its failure does not converge, but no command is wrong
          // Where a file asks for a program, a line says so.
          const bool is_quiet = result.err.empty() || result.err.starts_with("  program ");
          CHECK(is_quiet);
          if (line == "tanzen demo") check_demo(result, folder.path());
          known->second = without_layout(result.out);
        }
        printed += known->second;
      }
      for (const std::string& block : printed_blocks(text)) {
        ++blocks;
        CAPTURE(block);
        CHECK(testing::contains(printed, without_layout(block)));
      }
    }
    CHECK(commands >= 50);
    CHECK(blocks >= 6);
    CHECK(printed_by.contains("tanzen demo"));
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
