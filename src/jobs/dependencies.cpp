#include "jobs/dependencies.hpp"

namespace fibula {

std::vector<std::string> dependencies_in(std::string_view text) {
  std::vector<std::string> found;
  size_t at = text.find(": ");
  if (at == std::string_view::npos) return found;
  std::string word;
  const auto finish = [&] {
    if (!word.empty()) found.emplace_back(word);
    word.clear();
  };
  for (at += 2; at < text.size() && !(text[at] == '\n' && word.empty() && !found.empty() && text[at - 1] != '\\');
       ++at) {
    const char c = text[at], next = at + 1 < text.size() ? text[at + 1] : '\0';
    if (c == '\\' && (next == ' ' || next == '#')) {
      word += next;
      ++at;
    } else if (c == '$' && next == '$') {
      word += c;
      ++at;
    } else if (c == '\\' && next == '\n') {
      finish();
      ++at;
    } else if (c == ' ' || c == '\n' || c == '\t') {
      finish();
      if (c == '\n') break;
    } else {
      word += c;
    }
  }
  finish();
  return found;
}

}  // namespace fibula
