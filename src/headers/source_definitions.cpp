#include "headers/source_definitions.hpp"

#include "base/text.hpp"

namespace fibula {
namespace {

/// Comments and texts in quotes as spaces, so that what is left is code.
std::string code_of(std::string_view text) {
  std::string code(text);
  enum class In { plain, line, block, quote } in = In::plain;
  char quote = 0;
  for (size_t i = 0; i < code.size(); ++i) {
    const char c = code[i], next = i + 1 < code.size() ? code[i + 1] : '\0';
    if (in == In::plain && c == '/' && (next == '/' || next == '*')) {
      in = next == '/' ? In::line : In::block;
    } else if (in == In::plain && (c == '"' || c == '\'')) {
      in = In::quote;
      quote = c;
    } else if (in == In::quote && c == '\\') {
      code[i++] = ' ';
    } else if ((in == In::quote && (c == quote || c == '\n')) || (in == In::line && c == '\n')) {
      in = In::plain;
      continue;
    } else if (in == In::block && c == '*' && next == '/') {
      code[i] = code[i + 1] = ' ';
      ++i;
      in = In::plain;
      continue;
    }
    if (in != In::plain && i < code.size() && code[i] != '\n') code[i] = ' ';
  }
  return code;
}

size_t skip_space(std::string_view code, size_t at) {
  while (at < code.size() && (code[at] == ' ' || code[at] == '\n' || code[at] == '\t' || code[at] == '\r')) ++at;
  return at;
}

/// The place behind the bracket that closes the one at `at`; npos where none does.
size_t behind_bracket(std::string_view code, size_t at) {
  int depth = 0;
  for (; at < code.size(); ++at) {
    if (code[at] == '(') ++depth;
    if (code[at] == ')' && --depth == 0) return at + 1;
  }
  return std::string_view::npos;
}

/// What stands before a name back to the end of the last declaration says static.
bool is_static(std::string_view code, size_t at) {
  const size_t begin = code.find_last_of(";}{", at);
  const auto before =
      code.substr(begin == std::string_view::npos ? 0 : begin, at - (begin == std::string_view::npos ? 0 : begin));
  return before.find("static ") != std::string_view::npos;
}

bool is_definition(std::string_view code, size_t at, size_t size) {
  size_t next = skip_space(code, at + size);
  if (next < code.size() && code[next] == ':' && (next + 1 == code.size() || code[next + 1] != ':')) {
    const size_t line = code.find_last_of('\n', at);
    return skip_space(code, line == std::string_view::npos ? 0 : line + 1) == at;  // a label of assembly
  }
  if (next >= code.size() || code[next] != '(') return false;
  next = behind_bracket(code, next);
  if (next == std::string_view::npos) return false;
  // `const noexcept -> int` and the like may stand before the body.
  const size_t end = code.find_first_of(";{}(=", next);
  return end != std::string_view::npos && code[end] == '{' && !is_static(code, at);
}

}  // namespace

bool text_defines(std::string_view text, std::string_view name) {
  if (name.empty() || text.find(name) == std::string_view::npos) return false;
  const std::string code = code_of(text);
  for (size_t at = code.find(name); at != std::string::npos; at = code.find(name, at + 1)) {
    const bool whole = (at == 0 || !text::is_identifier_character(code[at - 1])) &&
                       (at + name.size() == code.size() || !text::is_identifier_character(code[at + name.size()]));
    // Calls stand inside of functions; `if (f(x)) {` looks like a definition otherwise.
    const bool call = at > 0 && (code[at - 1] == '(' || code[at - 1] == '!' || code[at - 1] == ',');
    if (whole && !call && is_definition(code, at, name.size())) return true;
  }
  return false;
}

}  // namespace fibula
