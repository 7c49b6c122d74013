/// A database of the cache: pairs that are kept and looked up (SQLite's documentation, "C/C++ Interface").
#pragma once

#include <fibula/cache.hpp>
#include <fibula/result.hpp>

#include <cstdint>
#include <filesystem>
#include <functional>
#include <string>
#include <string_view>

struct sqlite3;
struct sqlite3_stmt;

namespace fibula {

/// A question or change with `?` for what is filled in.
class Statement {
 public:
  Statement(Statement&& other) noexcept : statement_(other.statement_) { other.statement_ = nullptr; }
  Statement& operator=(Statement&&) = delete;
  ~Statement();

  Statement& text(int position, std::string_view value);  ///< lent until the next `step` or `again`
  Statement& number(int position, int64_t value);
  /// True while there is a row.
  bool step();
  void again();
  std::string text_of(int column) const;
  int64_t number_of(int column) const;

 private:
  friend class Database;
  explicit Statement(sqlite3_stmt* statement) : statement_(statement) {}
  sqlite3_stmt* statement_;
};

class Database {
 public:
  /// Opens or makes it. Errors: missing_tool (no SQLite), io.
  static Result<Database> open(const std::filesystem::path& file);
  /// One of the cache, with its tables; in memory where nothing is kept. What a power failure takes is read again.
  /// Errors: the same.
  static Result<Database> kept(const Cache& cache, const char* file, const char* schema);
  Database(Database&& other) noexcept : handle_(other.handle_) { other.handle_ = nullptr; }
  Database& operator=(Database&&) = delete;
  ~Database();

  /// Errors: io (damaged, locked for long, disk full).
  Result<void> run(const char* sql);
  /// What `changes` does is done as a whole, or not at all. Errors: also its own.
  Result<void> together(const std::function<Result<void>()>& changes);
  Result<Statement> prepare(const char* sql);
  int64_t last_row() const;

 private:
  explicit Database(sqlite3* handle) : handle_(handle) {}
  Error error(std::string_view doing) const;
  sqlite3* handle_;
};

}  // namespace fibula
