#pragma once

#include <tanzen/base/errors.hpp>
#include <tanzen/comparison/comparison.hpp>
#include <tanzen/comparison/grouping.hpp>
#include <tanzen/results/results_file.hpp>
#include <tanzen/study/campaign.hpp>

#include <cstdlib>
#include <filesystem>
#include <string>

/// A results file as campaigns write them, for changing, and what is done with one.
namespace fuzzing {

struct RealResults {
  std::filesystem::path folder, original, changed;

  RealResults() {
    std::string name = (std::filesystem::temp_directory_path() / "tanzen-fuzz-XXXXXX").string();
    if (mkdtemp(name.data()) == nullptr) std::abort();
    folder = name;
    original = folder / "original.sqlite";
    changed = folder / "changed.sqlite";
    const tanzen::PlanDefinition plan{.title = "glazes",
                                      .repeats = 2,
                                      .problems = {"sphere:dim=2", "booth"},
                                      .methods = {{"simplex", "nelder-mead"}, {"bfgs", "bfgs"}},
                                      .stop = {.evaluations = 60}};
    (void)tanzen::run_campaign(tanzen::Campaign(plan, {}), {.file = original, .workers = 1});
  }
  RealResults(const RealResults&) = delete;
  RealResults& operator=(const RealResults&) = delete;
  ~RealResults() {
    std::error_code ignored;
    std::filesystem::remove_all(folder, ignored);
  }

  /// Whatever the file holds, it is read, compared and exported, or refused with a message.
  void look_at_changed() const {
    using namespace tanzen;
    try {
      const ResultsFile file = ResultsFile::reading(changed);
      const Results results = file.load(true);
      for (const ProblemGroup& group : group_problems(results)) (void)compare_over(compare(results), results, group);
      export_results(file, folder / "tables");
    } catch (const InputError&) {
      // refused, with a message
    } catch (const FileError&) {
      // likewise
    }
  }
};

} // namespace fuzzing
