#include "os/plain_path.hpp"

namespace fibula {

bool has_detours(std::string_view path) {
  for (size_t at = path.find('/'); at != std::string_view::npos; at = path.find('/', at + 1)) {
    const auto rest = path.substr(at + 1);
    const auto part = rest.substr(0, rest.find('/'));
    const bool last = part.size() == rest.size();
    if (part == "." || part == ".." || (part.empty() && !last)) return true;
  }
  return false;
}

}  // namespace fibula
