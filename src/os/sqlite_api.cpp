#include "os/sqlite_api.hpp"

#include "os/late_library.hpp"

namespace fibula {
namespace {

Result<SqliteApi> load_sqlite() {
  auto library = LateLibrary::open("libsqlite3.so.0", "libsqlite3-0", "to look names up");
  if (!library) return pass(library);
  SqliteApi api;
  for (auto bound :
       {library->bind(api.open, "sqlite3_open_v2"), library->bind(api.close, "sqlite3_close_v2"),
        library->bind(api.exec, "sqlite3_exec"), library->bind(api.prepare, "sqlite3_prepare_v2"),
        library->bind(api.bind_text, "sqlite3_bind_text"), library->bind(api.bind_number, "sqlite3_bind_int64"),
        library->bind(api.step, "sqlite3_step"), library->bind(api.reset, "sqlite3_reset"),
        library->bind(api.column_text, "sqlite3_column_text"), library->bind(api.column_number, "sqlite3_column_int64"),
        library->bind(api.last_row, "sqlite3_last_insert_rowid"), library->bind(api.finalize, "sqlite3_finalize"),
        library->bind(api.busy_timeout, "sqlite3_busy_timeout"), library->bind(api.message, "sqlite3_errmsg")}) {
    if (!bound) return pass(bound);
  }
  return api;
}

}  // namespace

const Result<SqliteApi>& SqliteApi::get() {
  static const Result<SqliteApi> api = load_sqlite();
  return api;
}

}  // namespace fibula
