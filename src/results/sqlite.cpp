#include "sqlite.hpp"

#include "tanzen/base/errors.hpp"

#include <cerrno>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <limits>
#include <sqlite3.h>

namespace tanzen::sqlite {
namespace {

/// What went wrong, and what to do about it.
std::string remedy(int code, int system_error, const char* message) {
  switch (code & 0xff) {
  case SQLITE_FULL: return "the disk is full; what was finished is kept: make room and run the same command again";
  case SQLITE_READONLY: return "the file or its folder is read-only";
  case SQLITE_CANTOPEN:
    return fmt::format("it cannot be opened: {}", system_error != 0 ? std::strerror(system_error) : message);
  case SQLITE_BUSY:
  case SQLITE_LOCKED: return "another program is using it; wait until that has ended";
  case SQLITE_CORRUPT:
    return "the file is damaged, cut off perhaps; nothing was changed in it: move it away and begin anew, or take it "
           "from a copy";
  case SQLITE_NOTADB: return "it is no results file";
  case SQLITE_IOERR:
    if (system_error == ENOSPC || system_error == EFBIG || system_error == EDQUOT)
      return remedy(SQLITE_FULL, 0, message);
    return fmt::format("it cannot be read or written: {}", system_error != 0 ? std::strerror(system_error) : message);
  default: return message;
  }
}

} // namespace

void Database::Close::operator()(sqlite3* database) const {
  sqlite3_close_v2(database);
}

Database::Database(std::filesystem::path path, Access access) : path_(std::move(path)) {
  // Some names, such as :memory:, mean something of their own; with a folder before it none does.
  const std::filesystem::path plain = path_.is_absolute() ? path_ : "." / path_;
  const int flags = access == Access::read ? SQLITE_OPEN_READONLY : SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE;
  sqlite3* opened = nullptr;
  const int code = sqlite3_open_v2(plain.c_str(), &opened, flags | SQLITE_OPEN_NOMUTEX, nullptr);
  handle_.reset(opened);
  check(code);
  sqlite3_extended_result_codes(opened, 1);
  sqlite3_busy_timeout(opened, 5000);
}

void Database::check(int code) const {
  if (code == SQLITE_OK || code == SQLITE_ROW || code == SQLITE_DONE) return;
  // SQLite does not keep the system's reason of a failed commit; the thread does.
  const int latest = errno;
  sqlite3* database = handle_.get();
  int system_error = database == nullptr ? 0 : sqlite3_system_errno(database);
  if (system_error == 0) system_error = latest;
  const char* message = database == nullptr ? "out of memory" : sqlite3_errmsg(database);
  throw FileError(fmt::format("{}: {}", path_.string(), remedy(code, system_error, message)));
}

void Database::execute(const std::string& sql) const {
  errno = 0;
  check(sqlite3_exec(handle(), sql.c_str(), nullptr, nullptr, nullptr));
}

std::int64_t Database::integer(std::string_view sql) const {
  Statement statement(*this, sql);
  return statement.step() ? statement.integer(0) : 0;
}

std::int64_t Database::changed_rows() const {
  return sqlite3_changes64(handle());
}

void Statement::Finalize::operator()(sqlite3_stmt* statement) const {
  sqlite3_finalize(statement);
}

Statement::Statement(const Database& database, std::string_view sql) : database_(&database) {
  sqlite3_stmt* prepared = nullptr;
  database.check(sqlite3_prepare_v2(database.handle(), sql.data(), static_cast<int>(sql.size()), &prepared, nullptr));
  statement_.reset(prepared);
}

Statement& Statement::bind(int place, std::int64_t value) {
  database_->check(sqlite3_bind_int64(statement_.get(), place, value));
  return *this;
}

Statement& Statement::bind(int place, double value) {
  database_->check(sqlite3_bind_double(statement_.get(), place, value));
  return *this;
}

Statement& Statement::bind(int place, std::string_view text) {
  database_->check(
      sqlite3_bind_text(statement_.get(), place, text.data(), static_cast<int>(text.size()), SQLITE_TRANSIENT));
  return *this;
}

bool Statement::step() {
  errno = 0;
  const int code = sqlite3_step(statement_.get());
  if (code == SQLITE_ROW) return true;
  const int reason = errno;
  sqlite3_reset(statement_.get());
  errno = reason;
  database_->check(code);
  return false;
}

void Statement::run() {
  while (step()) {
  }
}

void Statement::check_type(int column, bool may_be_fraction) const {
  const int type = sqlite3_column_type(statement_.get(), column);
  if (type == SQLITE_INTEGER || type == SQLITE_NULL || (may_be_fraction && type == SQLITE_FLOAT)) return;
  throw FileError(fmt::format("{}: the column {} holds {} where a {} should be", database_->path().string(),
                              sqlite3_column_name(statement_.get(), column),
                              type == SQLITE_FLOAT ? "a fraction" : "a text",
                              may_be_fraction ? "number" : "whole number"));
}

std::int64_t Statement::integer(int column) const {
  check_type(column, false);
  return sqlite3_column_int64(statement_.get(), column);
}

double Statement::number(int column) const {
  check_type(column, true);
  if (sqlite3_column_type(statement_.get(), column) == SQLITE_NULL) return std::numeric_limits<double>::quiet_NaN();
  return sqlite3_column_double(statement_.get(), column);
}

std::string Statement::text(int column) const {
  const auto* text = reinterpret_cast<const char*>(sqlite3_column_text(statement_.get(), column));
  return text == nullptr ? ""
                         : std::string(text, static_cast<std::size_t>(sqlite3_column_bytes(statement_.get(), column)));
}

Transaction::Transaction(const Database& database) : database_(database) {
  database.execute("BEGIN IMMEDIATE");
}

Transaction::~Transaction() {
  if (is_open_) sqlite3_exec(database_.handle(), "ROLLBACK", nullptr, nullptr, nullptr);
}

void Transaction::commit() {
  database_.execute("COMMIT");
  is_open_ = false;
}

} // namespace tanzen::sqlite
