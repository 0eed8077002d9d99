#include "tanzen/results/results_file.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include "results_head.hpp"
#include "results_store.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <utility>

namespace tanzen {
namespace {

namespace fs = std::filesystem;

void check_differences(const fs::path& path, const PlanDifferences& differences, ResultsFile::IfChanged if_changed) {
  const bool may_extend = differences.changed.empty();
  if (may_extend && (differences.added.empty() || if_changed == ResultsFile::IfChanged::extend)) return;
  std::vector<std::string> lines = differences.changed;
  for (const std::string& added : differences.added) lines.push_back("the plan adds " + added);
  throw InputError(fmt::format("{} holds the runs of another plan:\n  {}\n{}", path.string(), joined(lines, "\n  "),
                               may_extend
                                   ? "--extend takes over what was added"
                                   : "give the changed plan a file of its own with --output, or take the change back"));
}

} // namespace

/// A name for the store that the header need not know.
struct ResultsFile::State : ResultsStore {
  using ResultsStore::ResultsStore;
};

ResultsFile::ResultsFile(std::unique_ptr<State> state) : state_(std::move(state)) {}
ResultsFile::ResultsFile(ResultsFile&&) noexcept = default;
ResultsFile& ResultsFile::operator=(ResultsFile&&) noexcept = default;
ResultsFile::~ResultsFile() = default;

ResultsFile ResultsFile::for_campaign(const fs::path& path, const Campaign& campaign, IfChanged if_changed) {
  return opened_for(path, head_of(campaign), if_changed);
}

ResultsFile ResultsFile::opened_for(const fs::path& path, const FileHead& head, IfChanged if_changed) {
  const bool was_there = fs::exists(path);
  auto state = std::make_unique<State>(path, sqlite::Access::write); // from here on the file is this process's own
  const bool is_new = state->is_empty();
  try {
    if (!is_new) {
      state->check_kind();
      state->check_is_current();
      state->check_is_whole();
      check_differences(path, differences_between(read_head(state->database()), head), if_changed);
    }
    state->database().execute("PRAGMA page_size = 1024; PRAGMA journal_mode = WAL; PRAGMA synchronous = NORMAL;"
                              "PRAGMA wal_autocheckpoint = 10000; PRAGMA foreign_keys = ON;");
    sqlite::Transaction transaction(state->database());
    if (is_new) create_tables(state->database());
    write_head(state->database(), head);
    state->begin_session();
    transaction.commit();
    state->begin_writing();
    return ResultsFile(std::move(state));
  } catch (...) {
    if (is_new && !was_there) { // nothing half-made stays behind
      std::error_code ignored;
      for (const char* rest : {"", "-wal", "-shm", "-journal"}) fs::remove(path.string() + rest, ignored);
    }
    throw;
  }
}

ResultsFile ResultsFile::reading(const fs::path& path) {
  if (!fs::exists(path)) throw FileError(fmt::format("{}: there is no such file", path.string()));
  auto state = std::make_unique<State>(path, sqlite::Access::read);
  state->check_kind();
  state->begin_reading();
  return ResultsFile(std::move(state));
}

void ResultsFile::check_in_place() const {
  state_->check_in_place();
}

bool ResultsFile::add(const RunRecord& record) {
  return state_->add(record);
}

std::set<RunKey> ResultsFile::done() const {
  return state_->keys();
}

PlanDefinition ResultsFile::plan() const {
  return read_head(state_->database()).plan;
}

ResultsHead ResultsFile::head() const {
  const FileHead file = read_head(state_->database());
  ResultsHead head{.title = file.plan.title,
                   .seed = file.plan.seed,
                   .repeats = file.plan.repeats,
                   .gradient_weight = file.plan.gradient_weight,
                   .plan_gaps = file.plan.gaps,
                   .smallest_gap = file.plan.smallest_gap,
                   .problems = {},
                   .methods = {},
                   .method_names = {}};
  for (const ProblemRow& row : file.problems)
    head.problems.push_back({row.label, row.dimension, row.sense, row.traits, objectives_of(row), row.gaps, row.best,
                             !std::isnan(row.best)});
  for (const MethodRow& row : file.methods) {
    head.methods.push_back(row.label);
    head.method_names.push_back(row.name);
  }
  return head;
}

Results ResultsFile::load(bool with_traces, std::optional<double> gradient_weight) const {
  ResultsHead known = head();
  known.gradient_weight = gradient_weight.value_or(known.gradient_weight);
  const bool needs_traces =
      std::ranges::any_of(known.problems, [](const auto& each) { return !each.reference_is_known; });
  Results results(known);
  state_->read("run", false, with_traces || needs_traces,
               [&](const RunRecord& record) { results.add(record, with_traces); });
  results.finish();
  return results;
}

void ResultsFile::for_each(const std::function<void(const RunRecord&)>& each) const {
  state_->read("problems.place, repeat, methods.place", true, true, each);
}

std::size_t merge_results(const fs::path& whole, const std::vector<fs::path>& parts) {
  if (parts.empty())
    throw InputError("merge needs the parts: tanzen campaign merge whole.sqlite part-1.sqlite part-2.sqlite");
  const FileHead head = read_head(ResultsFile::reading(parts.front()).state_->database());
  for (const fs::path& part : parts) {
    if (fs::exists(whole) && fs::equivalent(whole, part))
      throw InputError(fmt::format("{} is to be merged into itself", part.string()));
    const FileHead other = read_head(ResultsFile::reading(part).state_->database());
    const PlanDifferences differences = differences_between(head, other);
    if (differences.changed.empty() && differences.added.empty()) continue;
    std::vector<std::string> lines = differences.changed;
    for (const std::string& added : differences.added) lines.push_back("only the second has " + added);
    throw InputError(fmt::format("{} and {} are parts of different campaigns:\n  {}", parts.front().string(),
                                 part.string(), joined(lines, "\n  ")));
  }
  std::size_t added = 0;
  ResultsFile file = ResultsFile::opened_for(whole, head, ResultsFile::IfChanged::refuse);
  for (const fs::path& part : parts) {
    const ResultsFile source = ResultsFile::reading(part);
    source.state_->read("run", true, true, [&](const RunRecord& record) { added += file.add(record) ? 1U : 0U; });
  }
  return added;
}

} // namespace tanzen
