#include "base/toml.hpp"

#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>

#define TOML_EXCEPTIONS 0
#define TOML_HEADER_ONLY 1
// The parser asserts, and in release builds assumes, what a text may well be: `[` with nothing behind it is one.
// Without that it goes on, and finds the error.
#define TOML_ASSERT(expression) static_cast<void>(0)
#pragma push_macro("NDEBUG")
#undef NDEBUG
#include <toml++/toml.h>
#pragma pop_macro("NDEBUG")

namespace fibula::toml {
namespace {

Value convert(const ::toml::node& node);

Table convert_table(const ::toml::table& source) {
  std::vector<std::pair<const ::toml::key*, const ::toml::node*>> ordered;
  for (const auto& [key, node] : source) ordered.emplace_back(&key, &node);
  // toml++ sorts keys by name; people read files in their own order.
  std::stable_sort(ordered.begin(), ordered.end(), [](const auto& a, const auto& b) {
    const auto &left = a.first->source().begin, &right = b.first->source().begin;
    return left.line != right.line ? left.line < right.line : left.column < right.column;
  });
  Table table;
  for (const auto& [key, node] : ordered) {
    Value value = convert(*node);
    value.line = key->source().begin.line;
    table.entries.emplace_back(std::string(key->str()), std::move(value));
  }
  return table;
}

Value convert(const ::toml::node& node) {
  Value value;
  value.line = node.source().begin.line;
  if (const auto* table = node.as_table()) {
    value.data = convert_table(*table);
  } else if (const auto* array = node.as_array()) {
    Array items;
    for (const auto& item : *array) items.push_back(convert(item));
    value.data = std::move(items);
  } else if (const auto number = node.value_exact<int64_t>()) {
    value.data = *number;
  } else if (const auto real = node.value_exact<double>()) {
    value.data = *real;
  } else if (const auto flag = node.value_exact<bool>()) {
    value.data = *flag;
  } else {
    value.data = node.value<std::string>().value_or("");
  }
  return value;
}

}  // namespace

const Value* Table::find(std::string_view key) const {
  const auto found =
      std::find_if(entries.begin(), entries.end(), [&](const auto& entry) { return entry.first == key; });
  return found == entries.end() ? nullptr : &found->second;
}

namespace {

/// Tables of tables: far more than anything here asks for, and few enough for every parser's stack.
constexpr size_t deepest = 16;

/// What is wrong with a text's shape, and the line of it: what the parser is not given, since it would not bear it.
struct Misshape {
  unsigned line = 0;  ///< 0: nothing is wrong
  Code code = Code::malformed;
  std::string what = {};
  std::string hint = {};
};

/// Reads a text as far as it takes to know what stands in quotes and comments.
class ShapeReader {
 public:
  explicit ShapeReader(std::string_view text) : text_(text) {
    constexpr std::string_view byte_order_mark = "\xef\xbb\xbf";
    if (text_.starts_with(byte_order_mark)) at_ = byte_order_mark.size();
  }

  Misshape read() {
    for (; at_ < text_.size(); ++at_) {
      const char c = text_[at_];
      if (const auto wrong = control_character(c); wrong.line != 0) return wrong;
      if (c == '#') {
        while (at_ + 1 < text_.size() && text_[at_ + 1] != '\n') {
          if (const auto wrong = control_character(text_[++at_]); wrong.line != 0) return wrong;
        }
      } else if (c == '"' || c == '\'') {
        if (auto wrong = skip_quoted(); wrong.line != 0) return wrong;
      } else if (static_cast<unsigned char>(c) >= 0x80) {
        return {line_, Code::malformed, "is not valid TOML: a character that is not ASCII stands outside of quotes",
                "put it in quotes"};
      } else if (c == '.' && ++dots_ > deepest) {
        return {line_, Code::limit, fmt::format("has tables more than {} deep", deepest),
                "no key that fibula knows is that deep"};
      } else if (c == '\n' || c == '=' || c == ',' || c == '{' || c == '[') {
        dots_ = 0;  // those in numbers count, and there is one of them in each
        line_ += c == '\n' ? 1 : 0;
      }
    }
    return {};
  }

 private:
  /// None but tabs and ends of lines may stand anywhere (TOML 1.0.0, "Comment" and "String").
  Misshape control_character(char c) const {
    const auto byte = static_cast<unsigned char>(c);
    if ((byte >= 0x20 && byte != 0x7f) || c == '\t' || c == '\n' || c == '\r') return {};
    return {line_, Code::malformed, fmt::format("is not valid TOML: it has a control character, \\x{:02x}", byte),
            "take it out, or write it as \\uXXXX in a text in quotes"};
  }

  /// Where a quote begins a text: what stands in one that begins elsewhere, the parser takes for something else.
  bool may_begin_here() const {
    const size_t before = at_ == 0 ? std::string_view::npos : text_.find_last_not_of(" \t", at_ - 1);
    return before == std::string_view::npos ||
           std::string_view("=[],{.\n").find(text_[before]) != std::string_view::npos ||
           static_cast<unsigned char>(text_[before]) >= 0x80;  // the byte order mark
  }

  /// Stops at the last byte of it.
  Misshape skip_quoted() {
    const unsigned began = line_;
    if (!may_begin_here())
      return {began, Code::malformed, "is not valid TOML: a text in quotes stands where none may",
              "a text stands behind =, [ or a comma"};
    const char quote = text_[at_];
    const std::string thrice(3, quote);
    const bool many_lines = text_.substr(at_).starts_with(thrice);
    const std::string_view end = many_lines ? std::string_view(thrice) : std::string_view(thrice).substr(0, 1);
    for (at_ += end.size(); at_ < text_.size() && !text_.substr(at_).starts_with(end); ++at_) {
      if (text_[at_] == '\n' && !many_lines) break;
      if (const auto wrong = control_character(text_[at_]); wrong.line != 0) return wrong;
      if (text_[at_] == '\n') ++line_;
      if (text_[at_] == '\\' && quote == '"' && at_ + 1 < text_.size() && text_[at_ + 1] != '\n') ++at_;
    }
    if (at_ >= text_.size() || !text_.substr(at_).starts_with(end))
      return {began, Code::malformed, "is not valid TOML: a text in quotes does not end",
              fmt::format("end it with {}", end)};
    at_ += end.size() - 1;
    // Two quotes may stand before the last three.
    for (int more = 0; many_lines && more < 2 && at_ + 1 < text_.size() && text_[at_ + 1] == quote; ++more) ++at_;
    return {};
  }

  std::string_view text_;
  size_t at_ = 0, dots_ = 0;
  unsigned line_ = 1;
};

}  // namespace

Result<Table> parse(std::string_view text, const std::filesystem::path& file) {
  if (auto wrong = ShapeReader(text).read(); wrong.line != 0) {
    return fail({.code = wrong.code,
                 .what = std::move(wrong.what),
                 .file = file.string(),
                 .line = wrong.line,
                 .hint = wrong.hint});
  }
  const auto parsed = ::toml::parse(text);
  if (!parsed) {
    const auto& error = parsed.error();
    return fail({.code = Code::malformed,
                 .what = "is not valid TOML: " + std::string(error.description()),
                 .file = file.string(),
                 .line = error.source().begin.line,
                 .hint = error.description().find("redefine") != std::string_view::npos
                             ? "two tables or keys have one name: rename or remove the second"
                             : ""});
  }
  return convert_table(parsed.table());
}

const Value* Reader::take(std::string_view key) {
  known_.emplace_back(key);
  return table_.find(key);
}

void Reader::report(Code code, unsigned line, std::string what, std::string hint) {
  if (error_) return;
  error_ = Error{.code = code, .what = std::move(what), .file = file_.string(), .line = line, .hint = std::move(hint)};
}

void Reader::wrong_type(const Value& value, std::string_view key, std::string_view expected) {
  static constexpr std::pair<std::string_view, std::string_view> examples[] = {
      {"a text in quotes", "{} = \"…\""}, {"a list of texts", "{} = [\"…\"]"}, {"true or false", "{} = true"},
      {"a whole number", "{} = 1"},       {"a table", "{} = {{ … }}"},         {"written as", "[[{}]]"}};
  const auto* example = std::find_if(std::begin(examples), std::end(examples),
                                     [&](const auto& one) { return expected.starts_with(one.first); });
  report(Code::malformed, value.line, fmt::format("{} in {} must be {}", key, what_, expected),
         "write it like " + fmt::format(fmt::runtime(example->second), key));
}

std::string Reader::text(std::string_view key, std::string_view otherwise) {
  const Value* value = take(key);
  if (value == nullptr) return std::string(otherwise);
  if (value->text() == nullptr) wrong_type(*value, key, "a text in quotes");
  return value->text() != nullptr ? *value->text() : std::string(otherwise);
}

std::string Reader::choice(std::string_view key, std::span<const std::string_view> choices,
                           std::string_view otherwise) {
  const std::string chosen = text(key, otherwise);
  if (std::find(choices.begin(), choices.end(), chosen) != choices.end()) return chosen;
  std::vector<std::string> names;
  for (const auto name : choices) names.push_back(quote(name));
  const Value* value = table_.find(key);
  report(Code::malformed, value != nullptr ? value->line : line_,
         fmt::format("{} in {} is {}", key, what_, quote(chosen)), "it is one of " + text::join(names, ", "));
  return std::string(otherwise);
}

std::vector<std::string> Reader::texts(std::string_view key) {
  std::vector<std::string> found;
  const Value* value = take(key);
  if (value == nullptr) return found;
  if (value->array() == nullptr) wrong_type(*value, key, "a list of texts, [\"a\", \"b\"]");
  if (value->array() == nullptr) return found;
  for (const auto& item : *value->array()) {
    if (item.text() == nullptr) wrong_type(*value, key, "a list of texts, [\"a\", \"b\"]");
    if (item.text() != nullptr) found.push_back(*item.text());
  }
  return found;
}

bool Reader::flag(std::string_view key, bool otherwise) {
  const Value* value = take(key);
  if (value == nullptr) return otherwise;
  const bool* flag = std::get_if<bool>(&value->data);
  if (flag == nullptr) wrong_type(*value, key, "true or false");
  return flag != nullptr ? *flag : otherwise;
}

int64_t Reader::number(std::string_view key, int64_t otherwise) {
  const Value* value = take(key);
  if (value == nullptr) return otherwise;
  const int64_t* number = std::get_if<int64_t>(&value->data);
  if (number == nullptr) wrong_type(*value, key, "a whole number");
  return number != nullptr ? *number : otherwise;
}

const Table* Reader::table(std::string_view key) {
  const Value* value = take(key);
  if (value != nullptr && value->table() == nullptr) wrong_type(*value, key, "a table");
  return value != nullptr ? value->table() : nullptr;
}

std::vector<const Value*> Reader::tables(std::string_view key) {
  std::vector<const Value*> found;
  const Value* value = take(key);
  if (value == nullptr) return found;
  const std::string expected = fmt::format("written as [[{}]]", key);
  if (value->array() == nullptr) wrong_type(*value, key, expected);
  if (value->array() == nullptr) return found;
  for (const auto& item : *value->array()) {
    if (item.table() == nullptr) wrong_type(*value, key, expected);
    if (item.table() != nullptr) found.push_back(&item);
  }
  return found;
}

unsigned Reader::line_of(std::string_view key) const {
  const Value* value = table_.find(key);
  return value != nullptr && value->line != 0 ? value->line : line_;
}

void Reader::require(std::string_view key) {
  if (!has(key))
    report(Code::malformed, line_, fmt::format("{} has no {}", what_, key), fmt::format("add {} = \"…\"", key));
}

Result<void> Reader::finish() {
  for (const auto& [key, value] : table_.entries) {
    if (std::find(known_.begin(), known_.end(), key) != known_.end()) continue;
    const std::string meant = text::closest(key, known_);
    report(Code::malformed, value.line, fmt::format("unknown key {} in {}", key, what_),
           meant.empty() ? "known keys: " + text::join(known_, ", ") : fmt::format("did you mean {}?", meant));
  }
  if (error_) return fail(*error_);
  return {};
}

std::string quote(std::string_view text) {
  std::string result = "\"";
  for (const char c : text) {
    const auto byte = static_cast<unsigned char>(c);
    if (c == '"' || c == '\\') {
      result += '\\';
      result += c;
    } else if (byte < 0x20 || byte == 0x7f) {
      result += fmt::format("\\u{:04x}", byte);
    } else {
      result += c;
    }
  }
  return result + '"';
}

std::string key(const std::string& name) {
  const bool bare =
      std::all_of(name.begin(), name.end(), [](char c) { return text::is_identifier_character(c) || c == '-'; });
  return bare ? name : quote(name);
}

std::string quote_list(std::span<const std::string> texts) {
  std::string list = "[";
  for (size_t i = 0; i < texts.size(); ++i) list += (i > 0 ? ", " : "") + quote(texts[i]);
  return list + "]";
}

std::string quote_long_list(std::span<const std::string> texts) {
  constexpr size_t line_width = 100;
  std::string text = quote_list(texts);
  if (text.size() <= line_width) return text;
  text = "[\n";
  for (const auto& entry : texts) text += fmt::format("  {},\n", quote(entry));
  return text + "]";
}

}  // namespace fibula::toml
