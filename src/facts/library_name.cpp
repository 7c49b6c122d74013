#include "facts/library_name.hpp"

#include <string_view>

namespace fibula {

std::string library_stem(const std::filesystem::path& path) {
  std::string name = path.filename().string();
  // A version stands behind the ending of ELF files, and in front of that of others.
  const size_t shared = name.find(".so");
  if (shared != std::string::npos && (shared + 3 == name.size() || name[shared + 3] == '.')) {
    name.erase(shared);
  } else {
    for (const std::string_view ending : {".dll.a", ".a", ".lib", ".dll", ".tbd", ".dylib", ".obj", ".o"}) {
      if (!name.ends_with(ending)) continue;
      name.erase(name.size() - ending.size());
      break;
    }
  }
  return name.starts_with("lib") && name.size() > 3 ? name.substr(3) : name;
}

}  // namespace fibula
