#include "results_store.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/version.hpp"

#include <cerrno>
#include <chrono>
#include <cmath>
#include <cstring>
#include <fcntl.h>
#include <fmt/chrono.h>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <sys/file.h>
#include <sys/utsname.h>
#include <thread>
#include <unistd.h>

namespace tanzen {
namespace {

using Json = nlohmann::json;

constexpr std::int64_t application_id = 1413566042, schema_version = 1;

std::string point_to_json(const Vector& point) {
  return Json(std::vector<double>(point.begin(), point.end())).dump();
}

Vector point_from_json(const std::string& text) {
  std::vector<double> numbers;
  for (const Json& number : Json::parse(text))
    numbers.push_back(number.is_null() ? std::numeric_limits<double>::quiet_NaN() : number.get<double>());
  return Coordinates(numbers).vector();
}

constexpr const char* run_columns = "run, status, message, value, violation, evaluations, gradients, hessians, "
                                    "iterations, evaluations_to_best, broken, "
                                    "seconds, point";

/// A row of `run_columns`, without its hits and its trace.
RunRecord record_in(const sqlite::Statement& row, RunKey key, bool with_point) {
  RunRecord record{.key = key,
                   .status = status_from_word(row.text(1)).value_or(Status::failed),
                   .message = row.text(2),
                   .value = row.number(3),
                   .violation = row.number(4),
                   .counts = {row.integer(5), row.integer(6), row.integer(7)},
                   .iterations = row.integer(8),
                   .evaluations_to_best = row.integer(9),
                   .broken = row.integer(10),
                   .seconds = row.number(11)};
  if (with_point) record.point = point_from_json(row.text(12));
  return record;
}

} // namespace

WriterLock::WriterLock(const std::filesystem::path& path)
    : descriptor_(open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644)) { // NOLINT(cppcoreguidelines-pro-type-vararg)
  if (descriptor_ < 0)
    throw FileError(fmt::format("{}: it cannot be written: {}", path.string(), std::strerror(errno)));
  if (flock(descriptor_, LOCK_EX | LOCK_NB) != 0) {
    close(descriptor_);
    throw FileError(fmt::format("{}: another program is writing to it; wait until that has ended, or give this part of "
                                "the campaign a file of its own with --part",
                                path.string()));
  }
}

WriterLock::~WriterLock() {
  close(descriptor_);
}

ResultsStore::ResultsStore(const std::filesystem::path& path, sqlite::Access access)
    : lock_(access == sqlite::Access::write ? std::make_unique<WriterLock>(path) : nullptr), database_(path, access) {}

ResultsStore::~ResultsStore() {
  if (!lock_) return;
  insert_run_.reset();
  insert_hit_.reset();
  insert_trace_.reset();
  try {
    database_.execute(
        "PRAGMA wal_checkpoint(TRUNCATE); PRAGMA journal_mode = DELETE;"); // one file, for reading anywhere
  } catch (const FileError&) {
    return; // a reader or a full disk: then the log beside the file stays, and all is in it
  }
}

bool ResultsStore::is_empty() const {
  return database_.integer("SELECT count(*) FROM sqlite_master") == 0;
}

void ResultsStore::check_kind() const {
  const std::string path = database_.path().string();
  if (is_empty() || database_.integer("PRAGMA application_id") != application_id)
    throw FileError(fmt::format("{}: it is no results file", path));
  const std::int64_t found = database_.integer("PRAGMA user_version");
  if (found != schema_version)
    throw FileError(fmt::format("{}: it has version {} of the results file, and this program knows version {}", path,
                                found, schema_version));
}

void ResultsStore::check_is_whole() const {
  sqlite::Statement check(database_, "PRAGMA quick_check(1)");
  if (check.step() && check.text(0) == "ok") return;
  throw FileError(fmt::format("{}: the file is damaged; nothing was changed in it: move it away and begin anew, or "
                              "take it from a copy",
                              database_.path().string()));
}

void ResultsStore::begin_session() {
  utsname system{};
  uname(&system);
  const auto now = std::chrono::system_clock::to_time_t(std::chrono::system_clock::now());
  sqlite::Statement(database_, "INSERT INTO sessions (began, version, machine, system, cores) VALUES (?, ?, ?, ?, ?)")
      .bind(1, fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(now)))
      .bind(2, version)
      .bind(3, system.nodename)
      .bind(4, fmt::format("{} {} {}", system.sysname, system.release, system.machine))
      .bind(5, static_cast<std::int64_t>(std::thread::hardware_concurrency()))
      .run();
  session_ = database_.integer("SELECT max(session) FROM sessions");
}

void ResultsStore::begin_reading() {
  numbers_ = read_numbers(database_);
  for (std::size_t k = 0; k < numbers_.problems.size(); ++k) problem_places_[numbers_.problems[k]] = k;
  for (std::size_t k = 0; k < numbers_.methods.size(); ++k) method_places_[numbers_.methods[k]] = k;
}

RunKey ResultsStore::key_of(std::int64_t problem, std::int64_t repeat, std::int64_t method) const {
  return {problem_places_.at(problem), repeat, method_places_.at(method)};
}

std::set<RunKey> ResultsStore::keys() const {
  std::set<RunKey> keys;
  sqlite::Statement runs(database_, "SELECT problem, repeat, method FROM runs");
  while (runs.step()) keys.insert(key_of(runs.integer(0), runs.integer(1), runs.integer(2)));
  return keys;
}

void ResultsStore::begin_writing() {
  begin_reading();
  insert_run_.emplace(
      database_, "INSERT OR IGNORE INTO runs (problem, repeat, method, session, status, message, value, violation, "
                 "evaluations, gradients, hessians, iterations, evaluations_to_best, broken, seconds, point) "
                 "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING run");
  insert_hit_.emplace(database_,
                      "INSERT INTO hits (run, target, evaluations, gradients, hessians) VALUES (?, ?, ?, ?, ?)");
  insert_trace_.emplace(database_, "INSERT INTO traces (run, rows) VALUES (?, ?)");
}

std::optional<std::int64_t> ResultsStore::add_run(const RunRecord& record) {
  sqlite::Statement& insert = *insert_run_;
  insert.bind(1, numbers_.problems[record.key.problem])
      .bind(2, record.key.repeat)
      .bind(3, numbers_.methods[record.key.method])
      .bind(4, session_)
      .bind(5, status_word(record.status))
      .bind(6, record.message)
      .bind(7, record.value)
      .bind(8, record.violation)
      .bind(9, record.counts.evaluations)
      .bind(10, record.counts.gradients)
      .bind(11, record.counts.hessians)
      .bind(12, record.iterations)
      .bind(13, record.evaluations_to_best)
      .bind(14, record.broken)
      .bind(15, record.seconds)
      .bind(16, point_to_json(record.point));
  if (!insert.step()) return std::nullopt;
  const std::int64_t run = insert.integer(0);
  insert.run();
  return run;
}

void ResultsStore::add_rest(const RunRecord& record, std::int64_t run) {
  for (std::size_t k = 0; k < record.hits.size(); ++k) {
    const Counts& counts = record.hits[k];
    insert_hit_->bind(1, run)
        .bind(2, static_cast<std::int64_t>(k))
        .bind(3, counts.evaluations)
        .bind(4, counts.gradients)
        .bind(5, counts.hessians)
        .run();
  }
  if (!record.trace.empty()) insert_trace_->bind(1, run).bind(2, record.trace).run();
}

bool ResultsStore::add(const RunRecord& record) {
  sqlite::Transaction transaction(database_);
  const auto run = add_run(record);
  if (!run) return false;
  add_rest(record, *run);
  transaction.commit();
  return true;
}

void ResultsStore::read(const char* order, bool with_points, bool with_traces,
                        const std::function<void(RunRecord)>& each) const {
  sqlite::Statement runs(
      database_, fmt::format("SELECT {}, runs.problem, repeat, runs.method FROM runs JOIN problems USING (problem) "
                             "JOIN methods USING (method) ORDER BY {}",
                             run_columns, order));
  sqlite::Statement hits(database_, "SELECT evaluations, gradients, hessians FROM hits WHERE run = ? ORDER BY target");
  sqlite::Statement trace(database_, "SELECT rows FROM traces WHERE run = ?");
  while (runs.step()) {
    const RunKey key = key_of(runs.integer(13), runs.integer(14), runs.integer(15));
    RunRecord record = record_in(runs, key, with_points);
    hits.bind(1, runs.integer(0));
    while (hits.step()) record.hits.push_back({hits.integer(0), hits.integer(1), hits.integer(2)});
    if (with_traces) {
      trace.bind(1, runs.integer(0));
      if (trace.step()) record.trace = trace.text(0);
      trace.run();
    }
    each(std::move(record));
  }
}

} // namespace tanzen
