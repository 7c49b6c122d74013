#include "binary/memory_regions.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <charconv>
#include <map>
#include <optional>

namespace fibula {
namespace {

using Number = std::optional<uint64_t>;

constexpr int deepest = 64;  // parentheses in parentheses

bool is_of_word(char c) {
  return text::is_identifier_character(c) || c == '.' || c == '$';
}

/// Words, numbers and single signs; comments and texts in quotes are none.
std::vector<std::string_view> tokens_of(std::string_view script) {
  std::vector<std::string_view> tokens;
  while (!script.empty()) {
    size_t length = 1;
    if (script.starts_with("/*")) {
      const size_t end = script.find("*/", 2);
      length = end == std::string_view::npos ? script.size() : end + 2;
    } else if (script.front() == '"') {
      const size_t end = script.find('"', 1);
      length = end == std::string_view::npos ? script.size() : end + 1;
      tokens.push_back(script.substr(0, length));
    } else if (is_of_word(script.front())) {
      while (length < script.size() && is_of_word(script[length])) ++length;
      tokens.push_back(script.substr(0, length));
    } else if (script.starts_with("<<") || script.starts_with(">>")) {
      tokens.push_back(script.substr(0, length = 2));
    } else if (std::string_view(" \t\r\n").find(script.front()) == std::string_view::npos) {
      tokens.push_back(script.substr(0, 1));
    }
    script.remove_prefix(length);
  }
  return tokens;
}

/// "0x20000000", "96K", "1M", "0777" (GNU ld manual, "Constants").
Number number_of(std::string_view word) {
  int base = 10;
  if (word.starts_with("0x") || word.starts_with("0X")) {
    base = 16;
    word.remove_prefix(2);
  } else if (word.size() > 1 && word.front() == '0') {
    base = 8;
  }
  uint64_t value = 0;
  const auto [end, error] = std::from_chars(word.data(), word.data() + word.size(), value, base);
  if (error != std::errc()) return std::nullopt;
  const std::string unit = text::upper(word.substr(static_cast<size_t>(end - word.data())));
  if (unit.empty()) return value;
  if (unit == "K") return value << 10U;
  if (unit == "M") return value << 20U;
  return std::nullopt;
}

class ScriptReader {
 public:
  explicit ScriptReader(std::string_view script) : tokens_(tokens_of(script)) {}

  std::vector<MemoryRegion> read() {
    for (int depth = 0; at_ < tokens_.size();) {
      const auto token = take();
      if (depth == 0 && token == "MEMORY" && peek() == "{") {
        ++at_;
        read_regions();
      } else if (depth == 0 && peek() == "=") {
        ++at_;
        symbols_[std::string(token)] = expression(0);
      } else {
        depth += token == "{" ? 1 : token == "}" && depth > 0 ? -1 : 0;
      }
    }
    return std::move(regions_);
  }

 private:
  std::string_view peek(size_t ahead = 0) const {
    return at_ + ahead < tokens_.size() ? tokens_[at_ + ahead] : std::string_view();
  }
  std::string_view take() { return at_ < tokens_.size() ? tokens_[at_++] : std::string_view(); }

  /// `name (attributes) : ORIGIN = origin, LENGTH = length`, one after the other up to the brace.
  void read_regions() {
    while (at_ < tokens_.size() && peek() != "}") {
      MemoryRegion region{.name = std::string(take())};
      if (region.name == "INCLUDE") {  // of a file that may have any
        regions_.push_back({.name = std::string(take()), .known = false});
        continue;
      }
      while (at_ < tokens_.size() && peek() != ":" && peek() != "}") ++at_;
      if (take() != ":") return;
      const Number origin = setting();
      if (peek() == ",") ++at_;
      const Number length = setting();
      region.known = origin && length;
      if (region.known) {
        region.origin = *origin;
        region.length = *length;
      }
      regions_.push_back(std::move(region));
      skip_rest();
    }
    ++at_;
  }

  Number setting() {
    ++at_;  // the key: ORIGIN, org or o; LENGTH, len or l
    return take() == "=" ? expression(0) : std::nullopt;
  }

  /// Of a region that was not understood, up to the name of the next.
  void skip_rest() {
    while (at_ < tokens_.size() && peek() != "}") {
      const bool is_name = is_of_word(peek().front()) && !text::is_digit(peek().front());
      if (is_name && (peek(1) == ":" || (peek(1) == "(" && names_region()))) return;
      ++at_;
    }
  }

  bool names_region() const {
    size_t ahead = 2;
    while (!peek(ahead).empty() && peek(ahead) != ")") ++ahead;
    return peek(ahead + 1) == ":";
  }

  Number expression(int depth) {
    Number sum = product(depth);
    while (peek() == "+" || peek() == "-") {
      const bool adds = take() == "+";
      const Number next = product(depth);
      if (!sum || !next) sum.reset();
      if (sum) *sum = adds ? *sum + *next : *sum - *next;
    }
    return sum;
  }

  Number product(int depth) {
    Number value = operand(depth);
    while (peek() == "*" || peek() == "/" || peek() == "<<" || peek() == ">>") {
      const auto sign = take();
      const Number next = operand(depth);
      if (!next || (sign == "/" && *next == 0) || (sign.size() == 2 && *next >= 64)) value.reset();
      if (value) *value = sign == "*" ? *value * *next : sign == "/" ? *value / *next : shifted(*value, sign, *next);
    }
    return value;
  }

  static uint64_t shifted(uint64_t value, std::string_view sign, uint64_t by) {
    return sign == "<<" ? value << by : value >> by;
  }

  Number operand(int depth) {
    const auto token = take();
    if (token == "(" && depth < deepest) {
      const Number inner = expression(depth + 1);
      return take() == ")" ? inner : std::nullopt;
    }
    const std::string name = text::upper(token);
    if ((name == "ORIGIN" || name == "LENGTH") && peek() == "(") {
      ++at_;
      const auto of = take();
      const auto region =
          std::find_if(regions_.begin(), regions_.end(), [&](const auto& one) { return one.name == of; });
      if (take() != ")" || region == regions_.end() || !region->known) return std::nullopt;
      return name == "ORIGIN" ? region->origin : region->length;
    }
    if (!token.empty() && text::is_digit(token.front())) return number_of(token);
    const auto symbol = symbols_.find(token);
    return symbol == symbols_.end() ? std::nullopt : symbol->second;
  }

  std::vector<std::string_view> tokens_;
  size_t at_ = 0;
  std::vector<MemoryRegion> regions_;
  std::map<std::string, Number, std::less<>> symbols_;
};

}  // namespace

std::vector<MemoryRegion> memory_regions(std::string_view script) {
  return ScriptReader(script).read();
}

}  // namespace fibula
