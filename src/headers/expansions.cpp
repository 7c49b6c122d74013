#include "headers/expansions.hpp"

#include "base/text.hpp"
#include "headers/branches.hpp"
#include "headers/stripped_code.hpp"

#include <optional>

namespace fibula {
namespace {

size_t skipped_back(std::string_view text, size_t at) {
  while (at > 0 && (text[at - 1] == ' ' || text[at - 1] == '\t' || text[at - 1] == '\n' || text[at - 1] == '\r')) --at;
  return at;
}

/// The name in front of the parameters that end before `at`: empty where a macro makes it; nothing where no parameters
/// end there.
std::optional<std::string_view> function_before(std::string_view text, size_t at) {
  at = skipped_back(text, at);
  if (at == 0 || text[at - 1] != ')') return std::nullopt;
  int depth = 0;
  for (; at > 0; --at) {
    if (text[at - 1] == ')') ++depth;
    if (text[at - 1] == '(' && --depth == 0) break;
  }
  if (at == 0) return std::nullopt;
  const size_t end = skipped_back(text, at - 1);
  size_t start = end;
  while (start > 0 && text::is_identifier_character(text[start - 1])) --start;
  return text.substr(start, end - start);
}

size_t end_of_block(std::string_view text, size_t open) {
  int depth = 0;
  for (size_t at = open; at < text.size(); ++at) {
    if (text[at] == '{') ++depth;
    if (text[at] == '}' && --depth == 0) return at;
  }
  return text.size();
}

void note_bodies(std::string_view code, Expansions& expansions) {
  for (size_t at = code.find('{'); at < code.size(); at = code.find('{', at + 1)) {
    const auto name = function_before(code, at);
    if (!name) continue;
    const size_t end = end_of_block(code, at);
    for (const auto inner : text::identifiers(code.substr(at, end - at))) expansions[std::string(*name)].emplace(inner);
    at = end;
    if (at >= code.size()) return;
  }
}

}  // namespace

void note_expansions(std::string_view text, Expansions& expansions) {
  for (const auto& view : branch_texts(text)) note_bodies(stripped_code(view), expansions);
  for (const auto& [name, body] : macro_bodies(text)) {
    for (const auto inner : text::identifiers(body)) expansions[std::string(name)].emplace(inner);
  }
}

}  // namespace fibula
