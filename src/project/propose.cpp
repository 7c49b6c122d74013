/// Lanes that nobody wrote yet: for the compilers that are on the machine.
#include "base/text.hpp"
#include "os/host.hpp"
#include "os/process.hpp"

#include <fibula/lane.hpp>

#include <fmt/format.h>

namespace fibula {
namespace {

/// What this machine's kernel starts without help.
bool starts_here(const Toolchain& t) {
  if (t.target.format != Format::elf || t.bare_metal()) return false;
  const Arch own = host_architecture();
  return own == t.target.arch || (own == Arch::x86_64 && t.target.arch == Arch::x86);
}

/// qemu's own names for architectures, where they differ (its manual, "User mode emulation").
std::string emulated(Arch arch) {
  switch (arch) {
    case Arch::x86: return "i386";
    case Arch::mips64: return "mips64";
    default: return std::string(to_string(arch));
  }
}

std::string starter_for(const Toolchain& t) {
  if (starts_here(t)) return {};
  if (t.target.format == Format::pe) {
    for (const char* name : {"wine64", "wine", "/usr/lib/wine/wine64"}) {
      if (find_program(name)) return name;
    }
  }
  if (t.target.format != Format::elf || t.bare_metal()) return {};
  const std::string emulator = "qemu-" + emulated(t.target.arch);
  if (!find_program(emulator)) return {};
  // The loader's folder lies in the sysroot, which emulated programs take for the root.
  const std::string root = t.sysroot.empty() ? fmt::format("/usr/{}", t.triple) : t.sysroot.string();
  return fmt::format("{} -L {}", emulator, root);
}

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
  lane.start_through = starter_for(toolchain);
  return lane;
}

}  // namespace fibula
