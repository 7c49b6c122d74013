#include <fibula/result.hpp>

namespace fibula {

std::string to_string(Code code) {
  switch (code) {
    case Code::usage: return "usage";
    case Code::absent: return "absent";
    case Code::unreadable: return "unreadable";
    case Code::truncated: return "truncated";
    case Code::malformed: return "malformed";
    case Code::not_a_library: return "not-a-library";
    case Code::unsupported: return "unsupported";
    case Code::limit: return "limit";
    case Code::refused: return "refused";
    case Code::missing_tool: return "missing-tool";
    case Code::io: return "io";
  }
  return "unknown";
}

std::string render(const Error& error) {
  std::string text = error.file;
  if (error.line != 0) text += (text.empty() ? "line " : ":") + std::to_string(error.line);
  if (!text.empty()) text += ": ";
  if (!error.place.empty()) text += "at " + error.place + ": ";
  return text + error.what;
}

}  // namespace fibula
