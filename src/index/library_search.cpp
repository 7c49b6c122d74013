#include "index/library_search.hpp"

#include "os/files.hpp"

namespace fibula {

Linking linking_of(const Toolchain& toolchain) {
  if (toolchain.family == CompilerFamily::msvc) return Linking::msvc;
  switch (family_of(toolchain.target.format)) {
    case Format::pe: return Linking::gnu_pe;
    case Format::macho: return Linking::macho;
    default: return Linking::elf;
  }
}

namespace {

/// The forms of name that a linker tries in each directory.
std::vector<std::string> file_names(const std::string& name, bool only_static, Linking linking) {
  if (name.starts_with(':')) return {name.substr(1)};
  const std::string unix_name = "lib" + name, archive = unix_name + ".a";
  switch (linking) {
    case Linking::msvc: return {name, name + ".lib"};
    case Linking::macho: return {unix_name + ".tbd", unix_name + ".dylib", archive};
    case Linking::gnu_pe:
      if (only_static) return {archive, name + ".lib"};
      return {unix_name + ".dll.a", name + ".dll.a", archive, name + ".lib", unix_name + ".dll", name + ".dll"};
    case Linking::elf: break;
  }
  if (only_static) return {archive};
  return {unix_name + ".so", archive};
}

}  // namespace

std::optional<fs::path> find_library(const std::vector<fs::path>& search, const std::string& name, bool only_static,
                                     Linking linking) {
  std::error_code ignored;
  const auto names = file_names(name, only_static, linking);
  for (const auto& folder : search) {
    for (const auto& file : names) {
      if (fs::exists(folder / file, ignored)) return folder / file;
    }
  }
  return std::nullopt;
}

}  // namespace fibula
