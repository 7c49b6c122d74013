#include "jobs/asked_headers.hpp"

#include "base/text.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"

namespace fibula {

std::vector<std::string> asked_headers(const std::string& file) {
  constexpr std::string_view question = "__has_include";
  std::vector<std::string> asked;
  const auto text = read_text(file);
  if (!text) return asked;
  for (size_t at = text->find(question); at != std::string::npos; at = text->find(question, at)) {
    at += question.size();
    const size_t first = text->find_first_of("<\"\n", at);
    if (first == std::string::npos || (*text)[first] == '\n') continue;
    const size_t last = text->find_first_of(">\"\n", first + 1);
    if (last == std::string::npos || (*text)[last] == '\n') continue;
    asked.push_back(text->substr(first + 1, last - first - 1));
  }
  return asked;
}

std::string asked_header_in(const std::string& folder, const std::string& name, const std::vector<std::string>& asked) {
  const std::string came = folder + "/" + name;
  for (const auto& header : asked) {
    if (came.ends_with("/" + header) && stamp_at(came.c_str()).is_file()) return came;
    const std::string below = folder + "/" + header;
    if (header.starts_with(name + "/") && stamp_at(below.c_str()).is_file()) return below;
  }
  return {};
}

bool may_be_asked_for(const std::string& name) {
  if (name.starts_with('.')) return false;
  const size_t dot = name.rfind('.');
  const std::string_view ending = dot == std::string::npos ? std::string_view() : std::string_view(name).substr(dot);
  return ending.empty() || ending.starts_with(".h") || ending.starts_with(".H") || ending == ".inc";
}

}  // namespace fibula
