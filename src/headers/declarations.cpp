#include "headers/declarations.hpp"

#include "base/text.hpp"
#include "headers/branches.hpp"
#include "headers/stripped_code.hpp"

#include <algorithm>
#include <optional>
#include <set>

namespace fibula {
namespace {

size_t closing(std::string_view text, size_t open) {
  int depth = 0;
  for (size_t i = open; i < text.size(); ++i) {
    depth += text[i] == '(' ? 1 : 0;
    depth -= text[i] == ')' ? 1 : 0;
    if (depth == 0) return i;
  }
  return text.size();
}

std::string_view word_before(std::string_view text, size_t end) {
  while (end > 0 && (text[end - 1] == ' ' || text[end - 1] == '\n' || text[end - 1] == '\t')) --end;
  size_t start = end;
  while (start > 0 && text::is_identifier_character(text[start - 1])) --start;
  return text.substr(start, end - start);
}

/// `GLOBAL(void) name(…)`, `ERROR(a, b) ERROR(c, d) void name(…)`: macros make the type, or other functions, and the
/// function comes behind them. The next parenthesis, where the one that ends at `close` is such a macro's.
size_t function_behind(std::string_view statement, size_t close, std::string_view macro, bool first) {
  const size_t next = statement.find('(', std::min(close + 1, statement.size()));
  if (next == std::string_view::npos || word_before(statement, next).empty()) return std::string_view::npos;
  const auto between = text::trim(statement.substr(close + 1, next - close - 1));
  const bool type_and_name = text::words(between).size() > 1;
  return !between.empty() && (first || type_and_name || between == macro) ? next : std::string_view::npos;
}

/// The function that a statement declares or begins: the word before its parameter list. Empty for anything else.
std::string_view function_in(std::string_view statement) {
  static constexpr std::string_view not_functions[] = {"typedef",        "using",  "friend",   "static_assert",
                                                       "_Static_assert", "return", "template", "operator"};
  static constexpr std::string_view attributes[] = {"__attribute__", "__declspec", "alignas", "decltype",
                                                    "__asm__",       "noexcept",   "explicit"};
  const auto is_not = [&](std::string_view word) { return text::has_word(statement, word); };
  if (std::any_of(std::begin(not_functions), std::end(not_functions), is_not)) return {};
  size_t start = 0;  // behind what macros have made
  for (size_t open = statement.find('('); open != std::string_view::npos;) {
    const auto name = word_before(statement, open);
    if (std::find(std::begin(attributes), std::end(attributes), name) != std::end(attributes)) {
      open = statement.find('(', closing(statement, open));
      continue;
    }
    // `int (name)(int)`: parentheses keep a macro of the same name away.
    const size_t close = closing(statement, open);
    const auto wrapped = text::trim(statement.substr(open + 1, close - open - 1));
    const bool is_name = !wrapped.empty() && std::all_of(wrapped.begin(), wrapped.end(), text::is_identifier_character);
    if (is_name && close < statement.size() && text::trim(statement.substr(close + 1)).starts_with('(')) return wrapped;
    // `zipOpen OF((const char* path))`: a macro keeps the parameters from compilers before C89.
    const bool by_macro = std::string(name) == text::upper(name) && wrapped.starts_with('(');
    if (by_macro && closing(wrapped, 0) + 1 == wrapped.size())
      return word_before(statement, static_cast<size_t>(name.data() - statement.data()));
    const auto inside = text::trim(statement.substr(open + 1));
    // `const Range Tides("…")` is a variable.
    const bool pointer = !inside.empty() && std::string_view("*&\"(").find(inside[0]) != std::string_view::npos;
    const bool initialiser = statement.substr(0, open).find('=') != std::string_view::npos;
    const bool alone = text::trim(statement.substr(start, open - start)) == name;
    const bool macro_call = alone && start == 0;
    if (const size_t next = alone ? function_behind(statement, close, name, macro_call) : std::string_view::npos;
        next != std::string_view::npos) {
      start = close + 1;
      open = next;
      continue;
    }
    const bool number = !name.empty() && name[0] >= '0' && name[0] <= '9';
    return pointer || initialiser || macro_call || number ? std::string_view() : name;
  }
  return {};
}

enum class ScopeKind { space, c_linkage, type, body };

struct Scope {
  ScopeKind kind = ScopeKind::body;
  std::string name = {};
  bool hides = false;  ///< a namespace without a name
};

/// A brace opens a scope whose declarations count, or a body to be skipped. Literals stand there emptied.
Scope scope_of(std::string_view statement) {
  if (text::trim(statement).starts_with("extern \"\"")) return {ScopeKind::c_linkage};
  if (text::has_word(statement, "namespace")) {
    const auto words = text::words(statement);
    const bool hides = words.empty() || words.back() == "namespace";
    const auto name = hides ? std::string_view() : words.back();
    return {ScopeKind::space, std::string(text::has_word(statement, "inline") ? std::string_view() : name), hides};
  }
  const bool type =
      text::has_word(statement, "class") || text::has_word(statement, "struct") || text::has_word(statement, "union");
  const bool opens = type && !text::has_word(statement, "template") && statement.find('(') == std::string_view::npos;
  if (!opens) return {};
  // `class Gate final : public Wall`
  auto words = text::words(statement.substr(0, statement.find(" : ")));
  if (!words.empty() && words.back() == "final") words.pop_back();
  const bool named = !words.empty() && words.back() != "class" && words.back() != "struct" && words.back() != "union";
  return {ScopeKind::type, named ? std::string(words.back()) : std::string()};
}

/// Takes text character by character and finds the functions that it declares and defines.
class Scanner {
 public:
  struct Declared {
    std::string name;  ///< its last part
    std::string spaces;
    bool c_name, stdcall, member;
    size_t mark;
    std::string text;
  };
  std::vector<Declared> declared;
  std::set<std::string> defined;
  std::set<std::string> shown;  ///< of those, what other files see
  std::set<std::string> data;   ///< that is defined for other files
  std::set<std::string> whole;  ///< both, with their namespaces, types and parameters

  /// `mark` is what the caller knows the place by.
  void take(char c, size_t mark) {
    if (statement_.find_first_not_of(" \t\n") == std::string::npos) mark_ = mark;
    if (c == '{') {
      if (counts()) begin_function();
      scopes_.push_back(counts() ? scope_of(statement_) : Scope{});
      old_style_.clear();
      statement_.clear();
    } else if (c == '}') {
      if (!scopes_.empty()) scopes_.pop_back();
      statement_.clear();
    } else if (c == ';') {
      if (counts()) end_statement();
      statement_.clear();
    } else {
      statement_ += c;
    }
  }

 private:
  bool inside(ScopeKind kind) const {
    return std::any_of(scopes_.begin(), scopes_.end(), [&](const Scope& scope) { return scope.kind == kind; });
  }
  bool counts() const { return !inside(ScopeKind::body); }

  /// The name of a function that returns int without saying so: `main (argc, argv) int argc;` where one of the names is
  /// declared behind, and `main() {`. Empty for a macro's call, which looks the same up to there.
  static std::string_view without_type(std::string_view statement) {
    const auto text = text::trim(statement);
    const size_t open = std::min(text.find('('), text.size());
    const auto name = text::trim(text.substr(0, open));
    const size_t close = open == text.size() ? open : std::min(closing(text, open), text.size());
    if (close == text.size() || name.empty() || !std::all_of(name.begin(), name.end(), text::is_identifier_character))
      return {};
    const auto behind = text::trim(text.substr(close + 1));
    if (behind.empty()) return name == "main" ? name : std::string_view();
    const auto parameters = text.substr(open + 1, close - open - 1);
    const auto declared = word_before(behind, behind.size());
    return !declared.empty() && text::has_word(parameters, declared) ? name : std::string_view();
  }

  void begin_function() {
    auto name = function_in(statement_);
    if (name.empty()) name = without_type(statement_);
    if (name.empty()) note_data();
    if (text::trim(statement_).empty() && !old_style_.empty()) {
      defined.insert(old_style_);
      if (!old_style_static_) shown.insert(old_style_);
    }
    defined.emplace(name);
    if (text::has_word(statement_, "static")) return;
    shown.emplace(name);
    const size_t open = name.empty() ? std::string::npos : statement_.find('(', place_of(name));
    if (open != std::string::npos) note_whole(name, statement_.substr(open, closing(statement_, open) + 1 - open));
  }

  size_t place_of(std::string_view part) const { return static_cast<size_t>(part.data() - statement_.data()); }

  /// The scopes that a name of a namespace stands in, and those before it in its statement: `Gate::~` of `Gate::~Gate`.
  void note_whole(std::string_view name, const std::string& parameters) {
    std::string whole_name;
    for (const auto& scope : scopes_) {
      if (scope.hides || scope.kind == ScopeKind::type) return;
      if (!scope.name.empty()) whole_name += scope.name + "::";
    }
    size_t start = place_of(name);
    const auto is_part = [](char c) { return text::is_identifier_character(c) || c == ':' || c == '~'; };
    while (start > 0 && is_part(statement_[start - 1])) --start;
    whole_name += statement_.substr(start, place_of(name) + name.size() - start) + parameters;
    std::erase_if(whole_name, [](char c) { return c == ' ' || c == '\t' || c == '\n'; });
    whole.insert(std::move(whole_name));
  }

  /// `int beacon_period = 6`, `const char* names[] = ` before a brace: data that others see.
  void note_data() {
    const size_t equals = statement_.find('=');
    if (equals == std::string::npos || inside(ScopeKind::type) || text::has_word(statement_, "static") ||
        text::has_word(statement_, "extern") || text::has_word(statement_, "typedef") ||
        text::has_word(statement_, "using"))
      return;
    std::string_view left = text::trim(std::string_view(statement_).substr(0, equals));
    // `void open(int gate = 3)`
    if (std::count(left.begin(), left.end(), '(') != std::count(left.begin(), left.end(), ')')) return;
    // Texts that are no code close what nothing opened.
    while (left.ends_with(']')) left = text::trim(left.substr(0, std::min(left.rfind('['), left.size() - 1)));
    const auto name = left.ends_with(')') ? pointer_to_function(left) : word_before(left, left.size());
    if (name.empty()) return;
    data.emplace(name);
    note_whole(name, "");
  }

  /// `int (*ask)(void)`
  static std::string_view pointer_to_function(std::string_view left) {
    const size_t open = left.find("(*");
    return open == std::string_view::npos ? std::string_view() : word_before(left, closing(left, open));
  }

  /// `int tide(h) int h;` and a brace: the way before C89 (C11, 6.9.1, "identifier-list").
  bool note_old_style(std::string_view name) {
    const size_t at = name.empty() ? std::string::npos : static_cast<size_t>(name.data() - statement_.data());
    const size_t close = at == std::string::npos ? at : closing(statement_, statement_.find('(', at));
    if (close == std::string::npos || close + 1 >= statement_.size()) return false;
    const auto rest = text::trim(std::string_view(statement_).substr(close + 1));
    const auto words = text::words(rest);
    static constexpr std::string_view behind[] = {"const", "noexcept", "override", "final", "throw", "volatile"};
    const bool plain = std::all_of(rest.begin(), rest.end(), [](char c) {
      return text::is_identifier_character(c) || c == ' ' || c == '\n' || c == '\t' || c == '*' || c == ',' ||
             c == '[' || c == ']';
    });
    if (!plain || words.size() < 2 || words[0].starts_with("__") || words[0] == text::upper(words[0]) ||
        std::find(std::begin(behind), std::end(behind), words[0]) != std::end(behind))
      return false;
    old_style_ = name;
    old_style_static_ = text::has_word(statement_, "static");
    return true;
  }

  void end_statement() {
    note_data();
    const auto name = function_in(statement_);
    if (note_old_style(name.empty() ? without_type(statement_) : name)) return;
    const bool generated = statement_.rfind('=') != std::string::npos && statement_.rfind('=') > statement_.rfind(')');
    if (name.empty() || generated || text::has_word(statement_, "inline") || text::has_word(statement_, "constexpr"))
      return;
    const bool c_name = inside(ScopeKind::c_linkage) || text::trim(statement_).starts_with("extern \"\"");
    const bool stdcall = text::has_word(statement_, "__stdcall") || text::has_word(statement_, "stdcall") ||
                         text::has_word(statement_, "__stdcall__");
    std::string spaces;
    for (const auto& scope : scopes_) {
      if (!scope.name.empty()) spaces += scope.name + "::";
    }
    declared.push_back(
        {std::string(name), std::move(spaces), c_name, stdcall, inside(ScopeKind::type), mark_, statement_});
  }

  std::string statement_;
  std::string old_style_;  ///< a function whose parameters are being declared
  bool old_style_static_ = false;
  std::vector<Scope> scopes_;
  size_t mark_ = 0;
};

Scanner scanned_code(std::string_view stripped) {
  Scanner scanner;
  for (const char c : stripped) scanner.take(c, 0);
  return scanner;
}

/// One for each form that its conditionals give the text.
std::vector<Scanner> scanned(std::string_view text) {
  std::vector<Scanner> scanners;
  for (const auto& view : branch_texts(text)) scanners.push_back(scanned_code(stripped_code(view)));
  return scanners;
}

}  // namespace

std::optional<std::pair<std::string, unsigned>> line_marker(std::string_view line) {
  if (!line.starts_with("# ") && !line.starts_with("#line ")) return std::nullopt;
  const size_t open = line.find('"'), close = line.find('"', open + 1);
  const size_t digits = line.find_first_of("0123456789");
  if (close == std::string_view::npos || digits > open) return std::nullopt;
  std::string file;
  for (size_t i = open + 1; i < close; ++i) {
    if (line[i] == '\\' && i + 1 < close) ++i;
    file += line[i];
  }
  return std::pair(std::move(file), static_cast<unsigned>(std::atoi(std::string(line.substr(digits)).c_str())));
}

std::vector<std::string> functions_left_to_a_binary(std::string_view text) {
  const auto scanners = scanned(text);
  std::vector<std::string> left;
  std::set<std::string> seen;
  for (const auto& scanner : scanners) seen.insert(scanner.defined.begin(), scanner.defined.end());
  for (const auto& scanner : scanners) {
    for (const auto& function : scanner.declared) {
      if (seen.insert(function.name).second) left.push_back(function.name);
    }
  }
  return left;
}

bool defines_function(std::string_view text, const std::string& name) {
  const auto scanners = scanned(text);
  return std::any_of(scanners.begin(), scanners.end(), [&](const Scanner& one) { return one.defined.contains(name); });
}

bool shows_name(std::string_view text, const std::string& name) {
  // Most texts do not even name it.
  if (!text::has_word(text, name)) return false;
  const auto scanners = scanned(text);
  return std::any_of(scanners.begin(), scanners.end(),
                     [&](const Scanner& one) { return one.shown.contains(name) || one.data.contains(name); });
}

SourceNames names_in_source(std::string_view text) {
  SourceNames names;
  for (const auto& view : branch_texts(text)) {
    const std::string stripped = stripped_code(view);
    Scanner scanner = scanned_code(stripped);
    names.has_main = names.has_main || scanner.defined.contains("main");
    names.defines.merge(scanner.shown);
    names.defines.merge(scanner.data);
    names.whole.merge(scanner.whole);
    for (const auto name : text::identifiers(stripped)) names.mentions.emplace(name);
  }
  names.defines.erase("");
  return names;
}

namespace {

struct MarkedPlace {
  std::string file;
  unsigned line;
};

/// What a preprocessor's output declares in files for which `counts` says yes; its marks are indices of `places`.
Scanner scanned_output(std::string_view preprocessed, const std::function<bool(const std::string&)>& counts,
                       std::vector<MarkedPlace>& places) {
  places.push_back({});
  Scanner scanner;
  MarkedPlace here{};
  bool wanted = false;
  for (const auto line : text::lines(preprocessed)) {
    if (auto marker = line_marker(line)) {
      if (marker->first != here.file) wanted = counts(marker->first);
      here = {std::move(marker->first), marker->second};
      continue;
    }
    if (wanted) {
      places.push_back(here);
      for (const char c : stripped_code(line)) scanner.take(c, places.size() - 1);
      scanner.take('\n', places.size() - 1);
    }
    ++here.line;
  }
  return scanner;
}

}  // namespace

std::vector<Declaration> declarations_in(std::string_view preprocessed,
                                         const std::function<bool(const std::string&)>& counts) {
  std::vector<MarkedPlace> places;
  const Scanner scanner = scanned_output(preprocessed, counts, places);
  std::vector<Declaration> found;
  for (const auto& function : scanner.declared) {
    std::string text;
    for (const auto word : text::words(function.text)) text += (text.empty() ? "" : " ") + std::string(word);
    const MarkedPlace& place = places[function.mark];
    found.push_back(
        {function.spaces + function.name, std::move(text), function.c_name, function.member, place.file, place.line});
  }
  return found;
}

std::vector<DeclaredFunction> declared_functions(std::string_view preprocessed,
                                                 const std::function<bool(const std::string&)>& counts) {
  std::vector<MarkedPlace> places;
  const Scanner scanner = scanned_output(preprocessed, counts, places);
  std::vector<DeclaredFunction> found;
  std::set<std::string> seen;
  for (const auto& function : scanner.declared) {
    const bool special = function.member || function.name == "operator" || scanner.defined.contains(function.name);
    if (special || !seen.insert(function.spaces + function.name).second) continue;
    const MarkedPlace& place = places[function.mark];
    found.push_back({function.spaces + function.name, function.c_name, function.stdcall, place.file, place.line});
  }
  return found;
}

}  // namespace fibula
