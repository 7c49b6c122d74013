#include "os/database.hpp"

#include "os/folder.hpp"
#include "os/sqlite_api.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

const SqliteApi& api() {
  return *SqliteApi::get();  // whoever has a database has loaded it
}

}  // namespace

Statement::~Statement() {
  if (statement_ != nullptr) api().finalize(statement_);
}

Statement& Statement::text(int position, std::string_view value) {
  api().bind_text(statement_, position, value.data(), static_cast<int>(value.size()), nullptr);
  return *this;
}

Statement& Statement::number(int position, int64_t value) {
  api().bind_number(statement_, position, value);
  return *this;
}

bool Statement::step() {
  return api().step(statement_) == SQLITE_ROW;
}

void Statement::again() {
  api().reset(statement_);
}

std::string Statement::text_of(int column) const {
  const unsigned char* text = api().column_text(statement_, column);
  return text == nullptr ? std::string() : std::string(reinterpret_cast<const char*>(text));
}

int64_t Statement::number_of(int column) const {
  return api().column_number(statement_, column);
}

Result<Database> Database::open(const std::filesystem::path& file) {
  const auto& loaded = SqliteApi::get();
  if (!loaded) return fail(loaded.error());
  sqlite3* handle = nullptr;
  const int opened = loaded->open(file.c_str(), &handle, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE, nullptr);
  Database database(handle);
  if (opened != SQLITE_OK) {
    Error error = database.error("opening the index");
    error.file = file.string();
    return fail(std::move(error));
  }
  loaded->busy_timeout(handle, 30'000);
  return database;
}

Result<Database> Database::kept(const Cache& cache, const char* file, const char* schema) {
  const auto& folder = cache.folder();
  if (!folder.empty()) {
    if (auto made = Folder::make(folder); !made) return fail(made.error());
  }
  auto database = open(folder.empty() ? ":memory:" : folder / file);
  if (!database) return database;
  if (auto set = database->run("PRAGMA journal_mode=WAL; PRAGMA synchronous=OFF;"); !set) return pass(set);
  if (auto made = database->run(schema); !made) return pass(made);
  return database;
}

Database::~Database() {
  if (handle_ != nullptr) api().close(handle_);
}

Error Database::error(std::string_view doing) const {
  return {.code = Code::io,
          .what = fmt::format("{}: {}", doing, handle_ == nullptr ? "out of memory" : api().message(handle_)),
          .hint = "remove the cache's folder: it is made anew"};
}

Result<void> Database::run(const char* sql) {
  if (api().exec(handle_, sql, nullptr, nullptr, nullptr) != SQLITE_OK) return fail(error("using the index"));
  return {};
}

Result<void> Database::together(const std::function<Result<void>()>& changes) {
  if (auto begun = run("BEGIN IMMEDIATE"); !begun) return begun;
  auto done = changes();
  if (done) return run("COMMIT");
  static_cast<void>(run("ROLLBACK"));
  return done;
}

Result<Statement> Database::prepare(const char* sql) {
  sqlite3_stmt* statement = nullptr;
  if (api().prepare(handle_, sql, -1, &statement, nullptr) != SQLITE_OK) return fail(error("asking the index"));
  return Statement(statement);
}

int64_t Database::last_row() const {
  return api().last_row(handle_);
}

}  // namespace fibula
