/// Lanes that nobody wrote yet: for the compilers that are on the machine.
#include "project/starter.hpp"

#include <fibula/lane.hpp>

#include <fmt/format.h>

namespace fibula {
namespace {

/// "windows-x86_64-posix", "x86_64-clang", "bare-avr": the target, and what tells two compilers for it apart.
std::string name_for(const Toolchain& t) {
  const auto value = [&](const char* id) { return t.answer(id) == nullptr ? std::string() : t.answer(id)->value; };
  const Format format = t.target.format;
  std::string name(format == Format::pe      ? "windows-"
                   : format == Format::macho ? "macos-"
                   : t.bare_metal()          ? "bare-"
                                             : "");
  name += to_string(t.target.arch);
  if (t.family == CompilerFamily::msvc) name += "-msvc";
  if (t.family == CompilerFamily::clang && format == Format::elf) name += "-clang";
  if (value("c-runtime") == "musl") name += "-musl";
  if (value("threads") == "posix") name += "-posix";
  return name;
}

}  // namespace

Lane propose_lane(const Toolchain& toolchain) {
  Lane lane{.name = name_for(toolchain) + "-release", .compiler = toolchain.compiler.filename().string()};
  // Away from Windows clang-cl starts the system's own linker, which knows nothing of its options.
  const bool wrong_linker = toolchain.linker.filename().string().find("link") == std::string::npos;
  if (toolchain.family == CompilerFamily::msvc && wrong_linker) lane.flags = {"-fuse-ld=lld"};
  if (!toolchain.bare_metal() && !starts_here(toolchain.target)) {
    std::vector<std::filesystem::path> roots{"/usr/" + toolchain.triple};
    if (!toolchain.sysroot.empty()) roots.insert(roots.begin(), toolchain.sysroot);
    lane.start_through = starter_for(toolchain.target, roots);
  }
  return lane;
}

}  // namespace fibula
