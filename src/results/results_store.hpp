#pragma once

#include "tanzen/base/errors.hpp"
#include "tanzen/study/run_record.hpp"

#include "results_head.hpp"
#include "sqlite.hpp"

#include <filesystem>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>

namespace tanzen {

/// Held by the one process that writes to a file.
class WriterLock {
 public:
  /// Throws FileError where the file cannot be written, or another process holds it.
  explicit WriterLock(const std::filesystem::path& path);
  WriterLock(const WriterLock&) = delete;
  WriterLock& operator=(const WriterLock&) = delete;
  ~WriterLock();
  /// Whether the file held is still that of its name.
  [[nodiscard]] bool is_in_place(const std::filesystem::path& path) const;

 private:
  int descriptor_;
};

/// The open database of a results file: its checks, and its rows as records.
class ResultsStore {
 public:
  ResultsStore(const std::filesystem::path& path, sqlite::Access access);
  ResultsStore(const ResultsStore&) = delete;
  ResultsStore& operator=(const ResultsStore&) = delete;
  /// Leaves one file, without a log beside it, where that can be had.
  ~ResultsStore();

  [[nodiscard]] const sqlite::Database& database() const { return database_; }
  [[nodiscard]] bool is_empty() const;
  /// Throws FileError unless this is a results file of a version that is known.
  void check_kind() const;
  /// Throws InputError unless it is of the version that is written.
  void check_is_current() const;
  /// Throws FileError for a damaged file. Cost: reads all of it.
  void check_is_whole() const;

  /// Makes reading ready; the head must be there.
  void begin_reading();
  /// Makes writing ready: notes who writes from now on. Within a transaction of the caller's, after the head.
  void begin_session();
  void begin_writing();

  /// One run as one transaction. False where the run is there already.
  bool add(const RunRecord& record);
  void check_in_place() const;

  /// Which runs there are.
  [[nodiscard]] std::set<RunKey> keys() const;
  /// Calls `each` with all runs in an order of SQL; points only if `with_points`, traces only if `with_traces`.
  void read(const char* order, bool with_points, bool with_traces, const std::function<void(RunRecord)>& each) const;

 private:
  [[nodiscard]] FileError damaged(const RunKey& key, std::string_view why) const;
  /// What a file says is checked before it is an index: throws FileError.
  [[nodiscard]] RunKey key_of(std::int64_t problem, std::int64_t repeat, std::int64_t method) const;

  std::unique_ptr<WriterLock>
      lock_; ///< goes after the database: closing any descriptor of the file drops SQLite's locks
  sqlite::Database database_;
  FileNumbers numbers_ = {};
  std::map<std::int64_t, std::size_t> problem_places_ = {}, method_places_ = {}; ///< by their numbers in the file
  std::int64_t session_ = 0;
  std::int64_t repeats_ = 0;
  std::vector<ProblemRow> problems_ = {};
  std::optional<sqlite::Statement> insert_ = {};
};

} // namespace tanzen
