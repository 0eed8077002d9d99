// A results file with any of its cells set to anything, or with rows taken away, is read or refused with a message.
#include "real_results.hpp"

#include <array>
#include <cstdint>
#include <cstring>
#include <sqlite3.h>
#include <string_view>
#include <utility>

namespace {

/// What a table has, and what one of its cells is set to.
constexpr std::array<std::pair<const char*, std::string_view>, 6> tables = {{
    {"campaign", "name value"},
    {"problems", "problem place label dimension sense best traits variables definition identity"},
    {"methods", "method place label name settings version"},
    {"targets", "problem target gap"},
    {"sessions", "session began version machine system cores"},
    {"runs",
     "run problem repeat method session status message value violation evaluations gradients hessians iterations "
     "evaluations_to_best broken seconds point hits trace feasible converged front"},
}};

std::string_view word_of(std::string_view words, std::size_t k) {
  std::size_t count = 1;
  for (const char c : words) count += c == ' ' ? 1U : 0U;
  for (k %= count; k > 0; --k) words.remove_prefix(words.find(' ') + 1);
  return words.substr(0, words.find(' '));
}

void change(sqlite3* database, const std::string& sql, const std::uint8_t* bytes, std::size_t size, unsigned kind) {
  sqlite3_stmt* statement = nullptr;
  if (sqlite3_prepare_v2(database, sql.c_str(), -1, &statement, nullptr) != SQLITE_OK) return;
  std::int64_t whole = 0;
  std::memcpy(&whole, bytes, std::min(size, sizeof whole));
  double number = 0;
  std::memcpy(&number, bytes, std::min(size, sizeof number));
  switch (kind) {
  case 0: sqlite3_bind_int64(statement, 1, whole); break;
  case 1: sqlite3_bind_double(statement, 1, number); break;
  case 2: sqlite3_bind_null(statement, 1); break;
  case 3: sqlite3_bind_blob(statement, 1, bytes, static_cast<int>(size), SQLITE_TRANSIENT); break;
  default:
    sqlite3_bind_text(statement, 1, reinterpret_cast<const char*>(bytes), static_cast<int>(size), SQLITE_TRANSIENT);
  }
  sqlite3_step(statement);
  sqlite3_finalize(statement);
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const fuzzing::RealResults real;
  std::filesystem::copy_file(real.original, real.changed, std::filesystem::copy_options::overwrite_existing);
  sqlite3* database = nullptr;
  if (sqlite3_open(real.changed.c_str(), &database) != SQLITE_OK) std::abort();
  sqlite3_exec(database, "PRAGMA foreign_keys = OFF; PRAGMA journal_mode = OFF; PRAGMA synchronous = OFF", nullptr,
               nullptr, nullptr);
  // A change: table, column, row, kind of value, its length, its bytes.
  for (std::size_t k = 0; k + 5 <= size;) {
    const auto& [table, columns] = tables[data[k] % tables.size()];
    const std::string column(word_of(columns, data[k + 1]));
    const std::string row =
        "(SELECT rowid FROM " + std::string(table) + " LIMIT 1 OFFSET " + std::to_string(data[k + 2] % 8) + ")";
    const bool has_rows = std::string_view(table) != "campaign" && std::string_view(table) != "targets";
    const std::string which = has_rows && data[k + 2] < 128 ? " WHERE rowid = " + row : "";
    const unsigned kind = data[k + 3] % 8;
    const std::size_t length = std::min<std::size_t>(data[k + 4], size - k - 5);
    const std::string sql = kind == 7 ? "DELETE FROM " + std::string(table) + which
                                      : "UPDATE " + std::string(table) + " SET " + column + " = ?" + which;
    change(database, sql, data + k + 5, length, kind);
    k += 5 + length;
  }
  sqlite3_close(database);
  real.look_at_changed();
  return 0;
}
