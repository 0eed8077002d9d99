#include "results_store.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/readable.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/trace_file.hpp"
#include "tanzen/version.hpp"

#include "record_json.hpp"

#include <array>
#include <cerrno>
#include <charconv>
#include <chrono>
#include <cmath>
#include <cstring>
#include <fcntl.h>
#include <fmt/chrono.h>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <sys/file.h>
#include <sys/stat.h>
#include <sys/utsname.h>
#include <thread>
#include <unistd.h>

namespace tanzen {
namespace {

constexpr std::int64_t application_id = 1413566042;

Vector point_from_json(const std::string& text) {
  std::vector<double> numbers;
  const Json list = Json::parse(text);
  if (!list.is_array()) throw InputError("the point is no list");
  for (const Json& number : list)
    numbers.push_back(number.is_null() ? std::numeric_limits<double>::quiet_NaN() : number.get<double>());
  return Coordinates(numbers).vector();
}

/// A JSON list of lists of whole numbers, one of each kind that is spent. Files have a million of them: making objects
/// of each would take most of the time of reading.
std::vector<Counts> hits_from_json(std::string_view text) {
  std::vector<Counts> hits;
  const char *at = text.data(), *const end = at + text.size();
  const auto take = [&](char c) { return at < end && *at == c && ++at != nullptr; };
  const auto expect = [&](char c) {
    if (!take(c)) throw InputError("what was spent at each target is no list of lists of counts");
  };
  expect('[');
  if (take(']')) return hits;
  do {
    Counts::Numbers numbers{};
    expect('[');
    for (std::size_t k = 0; k < numbers.size(); ++k) {
      if (k > 0) expect(',');
      const auto [after, error] = std::from_chars(at, end, numbers[k]);
      if (error != std::errc() || numbers[k] < 0) throw InputError("what was spent at a target is no count");
      at = after;
    }
    expect(']');
    hits.emplace_back(numbers);
  } while (take(','));
  expect(']');
  return hits;
}

/// What is always read of a run, in the order of `record_in`, before point, hits, trace and front.
constexpr const char* record_columns = "status, message, value, violation, evaluations, gradients, hessians, "
                                       "iterations, evaluations_to_best, broken, seconds, feasible, converged";

/// A row that begins with `record_columns`, point, hits, trace and front. Throws for what no run can be.
RunRecord record_in(const sqlite::Statement& row, RunKey key) {
  const auto status = status_from_word(row.text(0));
  if (!status) throw InputError(fmt::format("'{}' is no status", clipped(readable_line(row.text(0)), 40)));
  const auto count = [&](int column) {
    const std::int64_t number = row.integer(column);
    if (number < 0) throw InputError(fmt::format("a count is {}", number));
    return number;
  };
  return {.key = key,
          .status = *status,
          .message = row.text(1),
          .value = row.number(2),
          .violation = row.number(3),
          .feasible = row.integer(11) != 0,
          .converged = row.integer(12) != 0,
          .counts = Counts(Counts::Numbers{count(4), count(5), count(6)}),
          .iterations = count(7),
          .evaluations_to_best = count(8),
          .broken = count(9),
          .seconds = row.number(10),
          .point = point_from_json(row.text(13)),
          .hits = hits_from_json(row.text(14)),
          .front = front_from_json(Json::parse(row.text(16))),
          .trace = trace_table_from_csv(row.text(15))};
}

/// Throws for a run that is not one of this problem.
void check_fits(const RunRecord& record, const ProblemRow& problem, bool with_points) {
  if (with_points && record.point.size() != 0 && record.point.size() != problem.dimension)
    throw InputError(fmt::format("its point has {}, and the problem {}", counted(record.point.size(), "coordinate"),
                                 counted(problem.dimension, "variable")));
  if (record.hits.size() > problem.gaps.size())
    throw InputError(fmt::format("it reached {}, and there are {}",
                                 counted(static_cast<long long>(record.hits.size()), "target"), problem.gaps.size()));
  if (record.front.cols() > 0 && record.front.rows() != static_cast<Index>(objectives_of(problem).size()))
    throw InputError("its front has not as many objectives as its problem");
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

bool WriterLock::is_in_place(const std::filesystem::path& path) const {
  struct stat held {
  }, named{};
  return fstat(descriptor_, &held) == 0 && stat(path.c_str(), &named) == 0 && held.st_dev == named.st_dev &&
         held.st_ino == named.st_ino;
}

void ResultsStore::check_in_place() const {
  if (lock_ && !lock_->is_in_place(database_.path()))
    throw FileError(
        fmt::format("{}: the file was removed or replaced while runs were written to it: they are lost; run "
                    "the same command again",
                    database_.path().string()));
}

ResultsStore::ResultsStore(const std::filesystem::path& path, sqlite::Access access)
    : lock_(access == sqlite::Access::write ? std::make_unique<WriterLock>(path) : nullptr), database_(path, access) {}

ResultsStore::~ResultsStore() {
  if (!lock_) return;
  insert_.reset();
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
  if (found < 1 || found > schema_version)
    throw FileError(fmt::format("{}: it has version {} of the results file, and this program knows versions 1 to {}",
                                path, found, schema_version));
}

void ResultsStore::check_is_whole() const {
  sqlite::Statement check(database_, "PRAGMA quick_check(1)");
  if (check.step() && check.text(0) == "ok") return;
  throw FileError(fmt::format("{}: the file is damaged; nothing was changed in it: move it away and begin anew, or "
                              "take it from a copy",
                              database_.path().string()));
}

void ResultsStore::check_is_current() const {
  const std::int64_t found = database_.integer("PRAGMA user_version");
  if (found == schema_version) return;
  throw InputError(
      fmt::format("{}: it has version {} of the results file, which does not keep all that makes a problem "
                  "what it is: it can be compared and exported, not gone on with; give the campaign "
                  "another file",
                  database_.path().string(), found));
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
  show_as_current(database_, database_.integer("PRAGMA user_version"));
  FileHead head = read_head(database_);
  numbers_ = read_numbers(database_);
  repeats_ = head.plan.repeats;
  problems_ = std::move(head.problems);
  for (std::size_t k = 0; k < numbers_.problems.size(); ++k) problem_places_[numbers_.problems[k]] = k;
  for (std::size_t k = 0; k < numbers_.methods.size(); ++k) method_places_[numbers_.methods[k]] = k;
}

RunKey ResultsStore::key_of(std::int64_t problem, std::int64_t repeat, std::int64_t method) const {
  const auto p = problem_places_.find(problem);
  const auto m = method_places_.find(method);
  if (p == problem_places_.end() || m == method_places_.end() || repeat < 1 || repeat > repeats_)
    throw FileError(
        fmt::format("{}: a run is of problem {}, repeat {} and method {}, which the file does not have: it is "
                    "damaged",
                    database_.path().string(), problem, repeat, method));
  return {p->second, repeat, m->second};
}

std::set<RunKey> ResultsStore::keys() const {
  std::set<RunKey> keys;
  sqlite::Statement runs(database_, "SELECT problem, repeat, method FROM runs");
  while (runs.step()) keys.insert(key_of(runs.integer(0), runs.integer(1), runs.integer(2)));
  return keys;
}

void ResultsStore::begin_writing() {
  begin_reading();
  insert_.emplace(database_,
                  fmt::format("INSERT OR IGNORE INTO runs ({}, point, hits, trace, front, problem, repeat, method, "
                              "session) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                              record_columns));
}

bool ResultsStore::add(const RunRecord& record) {
  insert_->bind(1, status_word(record.status))
      .bind(2, record.message)
      .bind(3, record.value)
      .bind(4, record.violation)
      .bind(5, record.counts[Spent::evaluations])
      .bind(6, record.counts[Spent::gradients])
      .bind(7, record.counts[Spent::hessians])
      .bind(8, record.iterations)
      .bind(9, record.evaluations_to_best)
      .bind(10, record.broken)
      .bind(11, record.seconds)
      .bind(12, std::int64_t{record.feasible})
      .bind(13, std::int64_t{record.converged})
      .bind(14, Json(std::vector<double>(record.point.begin(), record.point.end())).dump())
      .bind(15, Json(record.hits).dump())
      .bind(16, trace_table_to_csv(record.trace))
      .bind(17, front_to_json(record.front).dump())
      .bind(18, numbers_.problems[record.key.problem])
      .bind(19, record.key.repeat)
      .bind(20, numbers_.methods[record.key.method])
      .bind(21, session_)
      .run();
  return database_.changed_rows() > 0;
}

FileError ResultsStore::damaged(const RunKey& key, std::string_view why) const {
  const std::string path = database_.path().string();
  if (why.starts_with(path + ": ")) why.remove_prefix(path.size() + 2); // it names the file itself
  return FileError(fmt::format("{}: the run of {}, repeat {}, by method {} is damaged: {}", path,
                               problems_[key.problem].label, key.repeat, key.method + 1,
                               readable_line(clipped(why, 200))));
}

void ResultsStore::read(const char* order, bool with_points, bool with_traces,
                        const std::function<void(RunRecord)>& each) const {
  sqlite::Statement runs(
      database_, fmt::format("SELECT {}, {}, hits, {}, front, runs.problem, repeat, runs.method FROM runs "
                             "LEFT JOIN problems USING (problem) LEFT JOIN methods USING (method) ORDER BY {}",
                             record_columns, with_points ? "point" : "'[]'", with_traces ? "trace" : "''", order));
  while (runs.step()) {
    const RunKey key = key_of(runs.integer(17), runs.integer(18), runs.integer(19));
    std::optional<RunRecord> record;
    try {
      record = record_in(runs, key);
      check_fits(*record, problems_[key.problem], with_points);
    } catch (const Json::exception&) {
      throw damaged(key, "a list in it cannot be read");
    } catch (const std::exception& error) {
      throw damaged(key, error.what());
    }
    each(std::move(*record));
  }
}

} // namespace tanzen
