#include "headers/include_lines.hpp"

#include "base/text.hpp"
#include "os/files.hpp"

#include <algorithm>
#include <cstdint>
#include <utility>

namespace fibula {

IncludeLine include_line(std::string_view line) {
  if (!line.starts_with('#')) return {};
  line = text::trim(line.substr(1));
  // What is Objective-C's own, GCC and Clang take in C too; type libraries are no headers (MSVC).
  const bool import = line.starts_with("import") && line.find(".tlb") == std::string_view::npos &&
                      line.find(".dll") == std::string_view::npos;
  if (!line.starts_with("include") && !import) return {};
  const size_t open = line.find_first_of("<\"");
  const size_t close = open == std::string_view::npos ? open : line.find_first_of(">\"", open + 1);
  if (close == std::string_view::npos) return {};
  return {.name = std::string(line.substr(open + 1, close - open - 1)), .quoted = line[open] == '"'};
}

namespace {

/// How deep in conditionals a text is. A guard does not count: the first directive, which asks whether a name is not
/// defined, with the definition next and its end behind all else.
class Depth {
 public:
  void read(std::string_view directive) {
    if (directive.starts_with("pragma")) return;
    after_guard_ = after_guard_ || guard_ == Guard::closed;
    if (count_ == 0 && (directive.starts_with("ifndef") || directive.starts_with("if !defined"))) guard_ = Guard::asked;
    if (count_ == 1 && guard_ == Guard::asked) guard_ = directive.starts_with("define") ? Guard::open : Guard::none;
    if (directive.starts_with("if")) ++depth_;
    if (directive.starts_with("endif") && depth_ > 0) --depth_;
    if (depth_ == 0 && guard_ == Guard::open && count_ > 1) guard_ = Guard::closed;
    ++count_;
  }
  bool conditional() const { return depth_ > (guard_ == Guard::open ? 1 : 0); }
  bool in_guard() const { return guard_ == Guard::open; }
  /// Whether what looked like a guard was one, as far as it was read.
  bool is_guarded() const { return !after_guard_; }

 private:
  enum class Guard : uint8_t { none, asked, open, closed };
  int depth_ = 0, count_ = 0;
  Guard guard_ = Guard::none;
  bool after_guard_ = false;
};

/// Block comments of a text, walked through once: examples in a header's description are no directives.
class Comments {
 public:
  explicit Comments(std::string_view text) : text_(text), mark_(text.find("/*")) {}

  /// Whether a place lies in one; places are asked for in order.
  bool hold(size_t place) {
    for (; mark_ < place; mark_ = text_.find(inside_ ? "*/" : "/*", mark_ + 2)) {
      if (inside_ || !in_line_comment(mark_)) inside_ = !inside_;
    }
    return inside_;
  }

 private:
  /// `// see include/*.h` opens nothing.
  bool in_line_comment(size_t mark) const {
    const size_t line = text_.rfind('\n', mark) + 1;  // 0 on the first line
    return text_.substr(line, mark - line).find("//") != std::string_view::npos;
  }

  std::string_view text_;
  size_t mark_;  ///< the next that may open or close one
  bool inside_ = false;
};

/// Raw strings of a text (C++20, 5.13.5): programs that write programs hold their includes in them.
class RawStrings {
 public:
  explicit RawStrings(std::string_view text) {
    for (size_t at = text.find("R\""); at != std::string_view::npos; at = text.find("R\"", at)) {
      const size_t open = text.find('(', at + 2);
      const auto delimiter = text.substr(at + 2, open == std::string_view::npos ? 0 : open - at - 2);
      constexpr size_t longest = 16;
      const bool raw = open != std::string_view::npos && delimiter.size() <= longest &&
                       delimiter.find_first_of(" )\\\t\n\"") == std::string_view::npos;
      if (!raw) {
        at += 2;
        continue;
      }
      const std::string close = ")" + std::string(delimiter) + "\"";
      const size_t end = std::min(text.find(close, open), text.size());
      ranges_.emplace_back(at, end);
      at = end;
    }
  }

  bool hold(size_t place) const {
    return std::any_of(ranges_.begin(), ranges_.end(),
                       [&](const auto& range) { return range.first < place && place < range.second; });
  }

 private:
  std::vector<std::pair<size_t, size_t>> ranges_;
};

}  // namespace

std::vector<IncludeLine> include_lines(std::string_view text) {
  std::vector<IncludeLine> found;
  size_t in_guard = 0;  // of those found, at the front
  Depth depth;
  Comments comments(text);
  const RawStrings raw(text);
  unsigned lines = 1;
  size_t counted = 0;
  // Only lines with a # are looked at: headers are mostly something else.
  for (size_t hash = text.find('#'); hash != std::string_view::npos; hash = text.find('#', hash + 1)) {
    const size_t start = text.rfind('\n', hash) + 1;  // 0 on the first line
    const auto line = text.substr(start, text.find('\n', hash) - start);
    if (!text::trim(line.substr(0, hash - start)).empty() || comments.hold(hash) || raw.hold(hash)) continue;
    depth.read(text::trim(line.substr(hash - start + 1)));
    auto include = include_line(text::trim(line));
    if (include.name.empty()) continue;
    lines += static_cast<unsigned>(std::count(text.begin() + static_cast<std::ptrdiff_t>(counted),
                                              text.begin() + static_cast<std::ptrdiff_t>(start), '\n'));
    counted = start;
    include.line = lines;
    include.conditional = depth.conditional();
    found.push_back(std::move(include));
    if (depth.in_guard()) in_guard = found.size();
  }
  for (size_t i = 0; i < in_guard && !depth.is_guarded(); ++i) found[i].conditional = true;
  return found;
}

std::set<std::string> included_names(const fs::path& root, const std::vector<std::string>& headers) {
  std::set<std::string> included;
  for (const auto& header : headers) {
    const auto text = read_text(root / header);
    for (const auto& line : text ? include_lines(*text) : std::vector<IncludeLine>()) included.insert(line.name);
  }
  return included;
}

bool is_included(const std::string& header, const std::set<std::string>& included) {
  return std::any_of(included.begin(), included.end(),
                     [&](const std::string& name) { return header == name || header.ends_with("/" + name); });
}

}  // namespace fibula
