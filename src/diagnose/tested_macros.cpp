#include "diagnose/tested_macros.hpp"

#include "base/text.hpp"
#include "headers/branches.hpp"
#include "headers/include_lines.hpp"

#include <algorithm>
#include <iterator>
#include <set>

namespace fibula {
namespace {

constexpr uint64_t largest_tested = 4U << 20U;

/// Names that begin so belong to compilers and their libraries (C11, 7.1.3), which leave these to their users.
bool is_reserved(const std::string& macro) {
  static constexpr std::string_view for_users[] = {
      "_GNU_SOURCE",   "_POSIX_",    "_XOPEN_SOURCE", "_DEFAULT_SOURCE", "_BSD_SOURCE", "_SVID_",
      "_FILE_OFFSET_", "_LARGEFILE", "_REENTRANT",    "_UNICODE",        "_USE_MATH_",  "_WIN32_",
      "_CRT_",         "_FORTIFY_",  "_DARWIN_",      "_TIME_BITS",      "_ISOC",       "_ALL_SOURCE"};
  const bool begins = macro.size() > 1 && macro[0] == '_' && macro[1] >= 'A' && macro[1] <= 'Z';
  return begins && std::none_of(std::begin(for_users), std::end(for_users),
                                [&](std::string_view name) { return macro.starts_with(name); });
}

bool is_users(const std::string& macro) {
  return !is_reserved(macro) && !macro.starts_with("__") && macro != "defined" && macro != "_WIN32" &&
         macro != "WIN32" && macro != "_MSC_VER";
}

/// Macros of the conditionals around each place for which `wanted` says yes. Guards of whole headers are no tests.
template <class Wanted>
void collect_macros(std::string_view text, const Wanted& wanted, std::vector<std::string>& into) {
  std::vector<std::vector<std::string>> open;  ///< macros of each conditional
  const auto lines = text::lines(text);
  for (size_t i = 0; i < lines.size(); ++i) {
    std::string_view line = text::trim(lines[i]);
    const bool directive = line.starts_with('#');
    if (directive) line = text::trim(line.substr(1));
    if (directive && line.starts_with("if")) {
      auto macros = identifiers_of(line.substr(
          line.find_first_of(" \t(!") == std::string_view::npos ? line.size() : line.find_first_of(" \t(!")));
      const bool guard = line.starts_with("ifndef") && i + 1 < lines.size() && !macros.empty() &&
                         text::trim(lines[i + 1]) == "#define " + macros.front();
      open.push_back(guard ? std::vector<std::string>() : std::move(macros));
    } else if (directive && line.starts_with("elif") && !open.empty()) {
      for (auto& macro : identifiers_of(line.substr(4))) open.back().push_back(std::move(macro));
    } else if (directive && line.starts_with("endif") && !open.empty()) {
      open.pop_back();
    }
    if (!wanted(lines[i], i + 1)) continue;
    for (auto it = open.rbegin(); it != open.rend(); ++it) {
      for (const auto& macro : *it) {
        if (is_users(macro) && std::find(into.begin(), into.end(), macro) == into.end()) into.push_back(macro);
      }
    }
  }
}

/// Macros that a compiler or its user may define, whatever they begin with: a library can ask for `_TIDE_BUS`.
bool is_for_somebody(const std::string& macro) {
  return !macro.starts_with("__") && !names_of_linux().contains(macro) && !names_of_windows().contains(macro) &&
         !names_of_macos().contains(macro);
}

/// A conditional on the way down a text: what its branches test, and whether the branch that one is in is for those who
/// defined none of it.
struct Chain {
  std::vector<std::string> macros;
  bool for_none = false;
  bool is_plain = true;  ///< it asks for nothing but whether names are defined
};

std::string without_blanks_and_comments(std::string_view condition) {
  condition = condition.substr(0, std::min(condition.find("//"), condition.find("/*")));
  std::string plain;
  std::copy_if(condition.begin(), condition.end(), std::back_inserter(plain),
               [](char c) { return c != ' ' && c != '\t'; });
  return plain;
}

size_t occurrences(std::string_view text, std::string_view part) {
  size_t found = 0;
  for (size_t at = text.find(part); at != std::string_view::npos; at = text.find(part, at + 1)) ++found;
  return found;
}

/// `#if defined(A) || defined B`, `#elif C`, `#ifdef D`; or `#if !defined(A) && !defined(B)` by itself.
void note_branch(std::string_view directive, Chain& chain) {
  const size_t behind = directive.find_first_of(" \t(!");
  const std::string condition = without_blanks_and_comments(directive.substr(std::min(behind, directive.size())));
  size_t named = 0;
  for (auto& macro : identifiers_of(condition)) {
    std::string name = macro.starts_with("defined") && macro != "defined" ? macro.substr(7) : std::move(macro);
    if (name == "defined") continue;
    chain.macros.push_back(std::move(name));
    ++named;
  }
  const size_t negated = occurrences(condition, "!defined");
  chain.for_none = negated != 0 && negated == named && condition.find("||") == std::string::npos;
  const bool either = negated == 0 && condition.find_first_of("&!") == std::string::npos;
  const bool compares = condition.find_first_of("<>=+-*,?\\") != std::string::npos;
  chain.is_plain = chain.is_plain && !compares && !directive.starts_with("ifndef") && (either || chain.for_none);
}

}  // namespace

std::vector<std::string> macros_of_chain(const fs::path& file, size_t line) {
  const auto text = read_text(file, largest_tested);
  std::vector<Chain> open;
  const auto lines = text ? text::lines(*text) : std::vector<std::string_view>();
  const auto directive_in = [&](size_t at) {
    const auto word = text::trim(lines[at]);
    return word.starts_with('#') ? text::trim(word.substr(1)) : std::string_view();
  };
  // Not every compiler says that it was an #error.
  if (line == 0 || line > lines.size() || !directive_in(line - 1).starts_with("error")) return {};
  for (size_t i = 0; i + 1 < line; ++i) {
    const auto directive = directive_in(i);
    if (directive.starts_with("if")) open.emplace_back();
    if (open.empty()) continue;
    Chain& chain = open.back();
    if (directive.starts_with("if") || directive.starts_with("elif")) {
      note_branch(directive, chain);
    } else if (directive.starts_with("else")) {
      chain.for_none = !chain.for_none;
    } else if (directive.starts_with("endif")) {
      open.pop_back();
    }
  }
  if (open.empty() || !open.back().for_none || !open.back().is_plain) return {};
  std::vector<std::string> macros = std::move(open.back().macros);
  std::erase_if(macros, [](const std::string& macro) { return !is_for_somebody(macro); });
  return macros;
}

std::vector<std::string> identifiers_of(std::string_view text) {
  std::vector<std::string> found;
  for (const auto name : text::identifiers(text)) {
    if (std::find(found.begin(), found.end(), name) == found.end()) found.emplace_back(name);
  }
  return found;
}

std::vector<std::string> macros_tested(const std::string& name, const fs::path& file, size_t line,
                                       const ToolCommand& command, Evidence& evidence) {
  std::vector<std::string> macros;
  if (const auto text = read_text(file, largest_tested))
    collect_macros(
        *text, [&](std::string_view, size_t number) { return number == line; }, macros);
  const bool is_name = !name.empty() && std::all_of(name.begin(), name.end(), text::is_identifier_character);
  const auto near =
      is_name ? evidence.files_near(command, {".h", ".hpp", ".hh", ".hxx", ".inc"}) : std::vector<fs::path>();
  std::set<std::string> with_name;
  for (const auto& header : near) {
    if (macros.size() > 8) break;
    const auto text = read_text(header, largest_tested);
    if (!text || !text::has_word(*text, name)) continue;
    with_name.insert(header.filename().string());
    collect_macros(
        *text, [&](std::string_view at, size_t) { return text::has_word(at, name); }, macros);
  }
  // Or it stands in a header that another one includes under a condition.
  const auto takes_one_in = [&](std::string_view at, size_t) {
    const auto include = include_line(text::trim(at));
    return !include.name.empty() && with_name.contains(fs::path(include.name).filename().string());
  };
  for (const auto& header : near) {
    if (macros.size() > 8) break;
    const auto text = read_text(header, largest_tested);
    if (text) collect_macros(*text, takes_one_in, macros);
  }
  if (macros.size() > 8) macros.resize(8);
  return macros;
}

std::vector<std::string> macros_of_bounds(const std::string& member, const ToolCommand& command, Evidence& evidence) {
  std::vector<std::string> macros;
  for (const auto& header : evidence.files_near(command, {".h", ".hpp", ".hh", ".hxx"})) {
    const auto text = read_text(header, largest_tested);
    if (!text || !text::has_word(*text, member)) continue;
    for (const auto line : text::lines(*text)) {
      const size_t open = line.find('['), close = line.find(']', open == std::string_view::npos ? 0 : open);
      if (open == std::string_view::npos || close == std::string_view::npos) continue;
      if (!text::has_word(line.substr(0, open), member)) continue;
      for (auto& macro : identifiers_of(line.substr(open, close - open))) macros.push_back(std::move(macro));
    }
  }
  return macros;
}

}  // namespace fibula
