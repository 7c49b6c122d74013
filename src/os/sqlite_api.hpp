/// SQLite's functions, loaded by the commands that keep pairs and look them up.
#pragma once

#include <fibula/result.hpp>

#include <sqlite3.h>

namespace fibula {

struct SqliteApi {
  decltype(&::sqlite3_open_v2) open = nullptr;
  decltype(&::sqlite3_close_v2) close = nullptr;
  decltype(&::sqlite3_exec) exec = nullptr;
  decltype(&::sqlite3_prepare_v2) prepare = nullptr;
  decltype(&::sqlite3_bind_text) bind_text = nullptr;
  decltype(&::sqlite3_bind_int64) bind_number = nullptr;
  decltype(&::sqlite3_step) step = nullptr;
  decltype(&::sqlite3_reset) reset = nullptr;
  decltype(&::sqlite3_column_text) column_text = nullptr;
  decltype(&::sqlite3_column_int64) column_number = nullptr;
  decltype(&::sqlite3_last_insert_rowid) last_row = nullptr;
  decltype(&::sqlite3_finalize) finalize = nullptr;
  decltype(&::sqlite3_busy_timeout) busy_timeout = nullptr;
  decltype(&::sqlite3_errmsg) message = nullptr;

  /// Loaded once a process. Errors: missing_tool.
  static const Result<SqliteApi>& get();
};

}  // namespace fibula
