#include "binary/script.hpp"

#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

constexpr uint64_t script_limit = 1U << 20U;  // a script that stands for a library is a few lines

/// Words, parentheses and commas, without comments.
std::vector<std::string_view> tokens(std::string_view text) {
  std::vector<std::string_view> found;
  size_t at = 0;
  while (at < text.size()) {
    if (text.substr(at, 2) == "/*") {
      const size_t end = text.find("*/", at + 2);
      if (end == std::string_view::npos) return found;
      at = end + 2;
    } else if (text[at] == '"') {
      const size_t end = std::min(text.find('"', at + 1), text.size());
      found.push_back(text.substr(at + 1, end - at - 1));
      at = end + 1;
    } else if (std::string_view("(),;").find(text[at]) != std::string_view::npos) {
      found.push_back(text.substr(at++, 1));
    } else if (text.substr(at).find_first_of(" \t\r\n") == 0) {
      ++at;
    } else {
      size_t end = text.find_first_of(" \t\r\n(),;\"", at);
      end = std::min(end, text.size());
      found.push_back(text.substr(at, end - at));
      at = end;
    }
  }
  return found;
}

struct Parser {
  std::vector<std::string_view> words;
  size_t at = 0;
  Script script;

  bool next_is(std::string_view word) const { return at < words.size() && words[at] == word; }

  bool skip_parentheses() {
    if (!next_is("(")) return true;
    int depth = 0;
    for (; at < words.size(); ++at) {
      depth += words[at] == "(" ? 1 : 0;
      depth -= words[at] == ")" ? 1 : 0;
      if (depth == 0) {
        ++at;
        return true;
      }
    }
    return false;
  }

  /// The list after INPUT, GROUP or AS_NEEDED.
  bool inputs(bool group, bool as_needed) {
    if (!next_is("(")) return false;
    for (++at; at < words.size(); ++at) {
      const auto word = words[at];
      if (word == ")") {
        ++at;
        return true;
      }
      if (word == ",") continue;
      if (word == "(" || word == ";") return false;
      if (word == "AS_NEEDED") {
        ++at;
        if (as_needed || !inputs(group, true)) return false;
        --at;
        continue;
      }
      script.inputs.push_back({std::string(word), as_needed, group});
    }
    return false;
  }

  bool statements() {
    while (at < words.size()) {
      const auto word = words[at++];
      const bool names_files = word == "INPUT" || word == "GROUP";
      if (!(names_files ? inputs(word == "GROUP", false) : skip_parentheses())) return false;
    }
    return true;
  }
};

}  // namespace

bool is_script(Bytes bytes) {
  if (bytes.empty() || bytes.size() > script_limit || bytes.text().find('\0') != std::string_view::npos) return false;
  static constexpr std::string_view commands[] = {"GROUP", "INPUT", "OUTPUT_FORMAT"};
  const auto words = tokens(bytes.text());
  return std::any_of(std::begin(commands), std::end(commands), [&](std::string_view command) {
    const auto found = std::find(words.begin(), words.end(), command);
    return found != words.end() && found + 1 != words.end() && found[1] == "(";
  });
}

Result<Script> read_script(Bytes bytes) {
  Parser parser{.words = tokens(bytes.text())};
  if (!parser.statements()) {
    return fail(
        {.code = Code::malformed,
         .what = "linker script's list of files is malformed: a parenthesis is open, or stands where a name should"});
  }
  return parser.script;
}

std::vector<std::string> assigned_symbols(std::string_view script) {
  const auto is_symbol = [](std::string_view word) {
    const auto fits = [](char c) { return text::is_identifier_character(c) || c == '.' || c == '$'; };
    return !word.empty() && word != "." && (word[0] < '0' || word[0] > '9') &&
           std::all_of(word.begin(), word.end(), fits);
  };
  std::vector<std::string> found;
  const auto words = tokens(script);
  for (size_t i = 0; i < words.size(); ++i) {
    const size_t sign = words[i].find('=');
    const bool apart = sign == std::string_view::npos && i + 1 < words.size() && words[i + 1].starts_with('=') &&
                       !words[i + 1].starts_with("==");
    const bool joined = sign != std::string_view::npos && !words[i].substr(sign).starts_with("==");
    const std::string_view name = words[i].substr(0, sign);
    if ((apart || joined) && is_symbol(name)) found.emplace_back(name);
  }
  return found;
}

}  // namespace fibula
