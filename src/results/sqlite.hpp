#pragma once

#include <cstdint>
#include <filesystem>
#include <memory>
#include <span>
#include <string>
#include <string_view>

struct sqlite3;
struct sqlite3_stmt;

/// The little of SQLite that a results file needs, with its errors as messages that a user can act on.
namespace tanzen::sqlite {

class Database;

/// A prepared statement. Parameters count from 1, columns from 0. Belongs to its database and one thread at a time.
class Statement {
 public:
  Statement(const Database& database, std::string_view sql);

  Statement& bind(int place, std::int64_t value);
  Statement& bind(int place, double value); ///< NaN is stored as NULL
  Statement& bind(int place, std::string_view text);

  /// Goes to the next row; false after the last one, when the statement is ready to be used anew.
  bool step();
  /// Does all of it, for what gives no rows.
  void run();

  // Each throws FileError where the file holds something else; a NULL is 0, or NaN.
  [[nodiscard]] std::int64_t integer(int column) const;
  [[nodiscard]] double number(int column) const;
  [[nodiscard]] std::string text(int column) const;

 private:
  void check_type(int column, bool may_be_fraction) const;
  struct Finalize {
    void operator()(sqlite3_stmt* statement) const;
  };
  const Database* database_;
  std::unique_ptr<sqlite3_stmt, Finalize> statement_;
};

enum class Access { read, write };

/// An open database file; for writing it is made where there is none.
class Database {
 public:
  Database(std::filesystem::path path, Access access);

  /// Statements without parameters or rows, one after the other.
  void execute(const std::string& sql) const;
  [[nodiscard]] std::int64_t integer(std::string_view sql) const;
  /// How many rows the latest statement that writes has written.
  [[nodiscard]] std::int64_t changed_rows() const;
  [[nodiscard]] const std::filesystem::path& path() const { return path_; }
  [[nodiscard]] sqlite3* handle() const { return handle_.get(); }
  /// Throws FileError for a code that is no success.
  void check(int code) const;

 private:
  struct Close {
    void operator()(sqlite3* database) const;
  };
  std::filesystem::path path_;
  std::unique_ptr<sqlite3, Close> handle_;
};

/// All that is done in its lifetime is done as one, or not at all unless `commit` is called.
class Transaction {
 public:
  explicit Transaction(const Database& database);
  Transaction(const Transaction&) = delete;
  Transaction& operator=(const Transaction&) = delete;
  ~Transaction();
  void commit();

 private:
  const Database& database_;
  bool is_open_ = true;
};

} // namespace tanzen::sqlite
