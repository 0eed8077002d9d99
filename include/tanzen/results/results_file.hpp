#pragma once

#include "tanzen/results/results.hpp"
#include "tanzen/study/campaign.hpp"

#include <cstddef>
#include <filesystem>
#include <functional>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

namespace tanzen {

struct FileHead;

/// What makes one campaign another one than that of a results file, a line each.
struct PlanDifferences {
  std::vector<std::string> added = {};   ///< problems, methods or repeats that the file does not have yet
  std::vector<std::string> changed = {}; ///< what makes the runs of the file runs of another campaign
};

/// Where the runs of a campaign are kept (SQLite; docs/results-file.md describes it). Each run is written as a whole or
/// not at all, so that the file can be read, and the campaign goes on, after a stop at any moment. One process writes
/// to a file at a time; others may read it.
///
/// Throws FileError, with what to do, for a file that cannot be opened, read or written, is damaged, or is no results
/// file.
class ResultsFile {
 public:
  enum class IfChanged { refuse, extend };

  /// Opens the file of a campaign to go on with it, or makes it. A file of another campaign is refused with InputError
  /// and a list of what differs; with `extend` it takes over problems, methods and repeats that were added.
  [[nodiscard]] static ResultsFile for_campaign(const std::filesystem::path& path, const Campaign& campaign,
                                                IfChanged if_changed = IfChanged::refuse);
  /// Opens a file to read it.
  [[nodiscard]] static ResultsFile reading(const std::filesystem::path& path);

  ResultsFile(ResultsFile&&) noexcept;
  ResultsFile& operator=(ResultsFile&&) noexcept;
  ~ResultsFile();

  /// The runs that are there, by their places in the campaign.
  [[nodiscard]] std::set<RunKey> done() const;
  /// Adds one run, in one transaction; one that is there already is left alone. False then.
  bool add(const RunRecord& record);
  /// Throws FileError where the file that runs were added to is no longer the one of that name: they are lost.
  void check_in_place() const;
  /// The plan that the file was made with or extended to.
  [[nodiscard]] PlanDefinition plan() const;
  /// All runs, with their traces if asked for, and gradients charged otherwise than by the plan if asked for. Cost: one
  /// pass over the file; some 500 bytes a run without traces.
  [[nodiscard]] Results load(bool with_traces = false, std::optional<double> gradient_weight = {}) const;
  /// Calls `each` with every run as it was added, problem by problem, repeat by repeat.
  void for_each(const std::function<void(const RunRecord&)>& each) const;
  /// What the file says of its problems and methods.
  [[nodiscard]] ResultsHead head() const;

 private:
  struct State;
  explicit ResultsFile(std::unique_ptr<State> state);
  static ResultsFile opened_for(const std::filesystem::path& path, const FileHead& head, IfChanged if_changed);
  friend std::size_t merge_results(const std::filesystem::path&, const std::vector<std::filesystem::path>&);
  std::unique_ptr<State> state_;
};

/// Puts the runs of several files of one campaign into one, which is made where there is none. Nothing is there twice;
/// the parts stay as they are. Returns how many runs were added. Throws InputError for parts of different campaigns.
std::size_t merge_results(const std::filesystem::path& whole, const std::vector<std::filesystem::path>& parts);

/// Writes `runs.csv`, `hits.csv` and `traces.csv` into a folder, which is made where there is none: a line a run, a
/// target reached, a kept iteration. Sorted by problem, repeat and method: equal campaigns give equal files, but for
/// the column `seconds`.
void export_results(const ResultsFile& results, const std::filesystem::path& folder);

} // namespace tanzen
