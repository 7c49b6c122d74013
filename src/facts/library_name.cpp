#include "facts/library_name.hpp"

#include <string_view>

namespace fibula {

namespace {

/// `libtide.1.30.0` -> `libtide`, `libpng16.16` -> `libpng16`; of `libtide-2.0.0`, whose name has a version too, the
/// last number alone.
std::string without_version(std::string name) {
  const size_t last = name.find_last_not_of("0123456789.");
  const size_t first = name.find('.', last == std::string::npos ? 0 : last);
  if (last == std::string::npos || first == std::string::npos || first + 1 == name.size()) return name;
  const size_t dot = name[last] == '-' ? name.rfind('.') : first;
  if (name[last] != '-' || dot != first) name.erase(dot);
  return name;
}

/// Where a name has this ending with a version behind it, or nothing: `libtide.so.1`, and `libtide.a.1.5`, as some
/// makefiles call what they install.
size_t versioned_ending(const std::string& name, std::string_view ending) {
  const size_t at = name.find(ending);
  if (at == std::string::npos || at + ending.size() == name.size()) return at;
  return name[at + ending.size()] == '.' ? at : std::string::npos;
}

bool is_version(std::string_view text) {
  return text.size() > 1 && text.find_first_not_of("0123456789.") == std::string_view::npos;
}

}  // namespace

std::string library_stem(const std::filesystem::path& path) {
  std::string name = path.filename().string();
  // A version stands behind the ending of ELF files, and in front of that of others.
  const size_t shared = versioned_ending(name, ".so"), archive = versioned_ending(name, ".a");
  if (shared != std::string::npos) {
    name.erase(shared);
  } else if (archive != std::string::npos && is_version(std::string_view(name).substr(archive + 2))) {
    name.erase(archive);
  } else {
    for (const std::string_view ending : {".dll.a", ".a", ".lib", ".dll", ".tbd", ".dylib", ".obj", ".o"}) {
      if (!name.ends_with(ending)) continue;
      name.erase(name.size() - ending.size());
      if (ending == ".dylib") name = without_version(std::move(name));
      break;
    }
  }
  return name.starts_with("lib") && name.size() > 3 ? name.substr(3) : name;
}

}  // namespace fibula
