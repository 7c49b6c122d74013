/// TOML files that people write, read strictly: every key is asked for by name, and what nobody asked for is an error
/// with the line it stands on and the key that was probably meant.
#pragma once

#include <fibula/result.hpp>

#include <filesystem>
#include <map>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace fibula::toml {

struct Value;
using Array = std::vector<Value>;

/// Keys in the order of the file.
struct Table {
  std::vector<std::pair<std::string, Value>> entries;
  const Value* find(std::string_view key) const;

  // Defined behind Value, which is not complete here.
  Table();
  Table(const Table&);
  Table(Table&&) noexcept;
  Table& operator=(const Table&);
  Table& operator=(Table&&) noexcept;
  ~Table();
};

struct Value {
  std::variant<std::string, int64_t, double, bool, Array, Table> data;
  unsigned line = 0;

  const std::string* text() const { return std::get_if<std::string>(&data); }
  const Table* table() const { return std::get_if<Table>(&data); }
  const Array* array() const { return std::get_if<Array>(&data); }
};

inline Table::Table() = default;
inline Table::Table(const Table&) = default;
inline Table::Table(Table&&) noexcept = default;
inline Table& Table::operator=(const Table&) = default;
inline Table& Table::operator=(Table&&) noexcept = default;
inline Table::~Table() = default;

/// `file` is named in errors. Errors: malformed (with file and line).
Result<Table> parse(std::string_view text, const std::filesystem::path& file);

/// Takes typed values out of one table and keeps the first error.
class Reader {
 public:
  /// `what` names the table in messages: "[lane.desk-debug]".
  Reader(const Table& table, std::filesystem::path file, std::string what, unsigned line)
      : table_(table), file_(std::move(file)), what_(std::move(what)), line_(line) {}

  std::string text(std::string_view key, std::string_view otherwise = "");
  /// One of the names given; anything else is an error that lists them.
  std::string choice(std::string_view key, std::span<const std::string_view> choices, std::string_view otherwise);
  std::vector<std::string> texts(std::string_view key);
  bool flag(std::string_view key, bool otherwise);
  int64_t number(std::string_view key, int64_t otherwise);
  /// A sub-table whose keys are names chosen by the user; null when it is not there.
  const Table* table(std::string_view key);
  /// An array of tables; empty when it is not there.
  std::vector<const Value*> tables(std::string_view key);
  /// The line of a key's value; of the table where it is not there.
  unsigned line_of(std::string_view key) const;
  /// Says that a key is known, without asking for it.
  void know(std::string_view key) { known_.emplace_back(key); }
  /// The first error so far.
  const std::optional<Error>& error() const { return error_; }
  bool has(std::string_view key) const { return table_.find(key) != nullptr; }

  void require(std::string_view key);
  /// Reports keys that were never asked for. Call it last.
  Result<void> finish();
  void report(Code code, unsigned line, std::string what, std::string hint = {});

 private:
  const Value* take(std::string_view key);
  void wrong_type(const Value& value, std::string_view key, std::string_view expected);

  const Table& table_;
  std::filesystem::path file_;
  std::string what_;
  unsigned line_;
  std::vector<std::string> known_;
  std::optional<Error> error_;
};

/// A text as a TOML basic string, with its quotes (TOML 1.0, "String").
std::string quote(std::string_view text);
/// A name as a part of a dotted key: in quotes where that asks for them (TOML 1.0, "Keys").
std::string key(const std::string& name);
/// `["a", "b"]`.
std::string quote_list(std::span<const std::string> texts);
/// The same, one entry a line where one line would be long.
std::string quote_long_list(std::span<const std::string> texts);

}  // namespace fibula::toml
