#include "headers/definition_forms.hpp"

#include "base/text.hpp"

namespace fibula {
namespace {

/// Calls `visit` with where each whole word `name` begins that a `(` follows, until it says yes.
template <class Visit>
bool any_call_like(std::string_view text, std::string_view name, const Visit& visit) {
  for (size_t at = 0; (at = text.find(name, at)) != std::string_view::npos; at += name.size()) {
    const bool begins = at == 0 || !text::is_identifier_character(text[at - 1]);
    const auto rest = text.substr(at + name.size());
    const size_t next = rest.find_first_not_of(" \t");
    if (begins && next != std::string_view::npos && rest[next] == '(' && visit(at)) return true;
  }
  return false;
}

/// What stands between the end of the statement before and a place.
std::string_view statement_before(std::string_view text, size_t at) {
  const size_t end = text.find_last_of(";}#", at == 0 ? 0 : at - 1);
  return text.substr(end == std::string_view::npos ? 0 : end + 1, at - (end == std::string_view::npos ? 0 : end + 1));
}

/// Whether a body, no semicolon, follows the parameters that begin behind a place.
bool has_body(std::string_view text, size_t at) {
  const size_t end = text.find_first_of(";{", at);
  return end != std::string_view::npos && text[end] == '{';
}

}  // namespace

bool defines_template(std::string_view text, std::string_view name) {
  return any_call_like(text, name, [&](size_t at) {
    return text::has_word(statement_before(text, at), "template") && has_body(text, at);
  });
}

bool defines_inline_only(std::string_view text, std::string_view name) {
  return any_call_like(text, name, [&](size_t at) {
    const auto before = statement_before(text, at);
    const bool is_inline =
        text::has_word(before, "inline") || text::has_word(before, "__inline__") || text::has_word(before, "__inline");
    return is_inline && !text::has_word(before, "static") && !text::has_word(before, "extern") && has_body(text, at);
  });
}

}  // namespace fibula
