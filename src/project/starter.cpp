#include "project/starter.hpp"

#include "os/host.hpp"
#include "os/process.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

namespace fs = std::filesystem;

/// Of a machine whose programs are emulated: QEMU's name for it (its manual, "User mode emulation"), the loader that
/// its programs ask for, and the folder where Debian keeps its system.
struct Emulated {
  Arch arch;
  const char* emulator;
  const char* loader;
  const char* root;
};
constexpr Emulated emulated[] = {
    {Arch::aarch64, "qemu-aarch64", "lib/ld-linux-aarch64.so.1", "/usr/aarch64-linux-gnu"},
    {Arch::arm, "qemu-arm", "lib/ld-linux-armhf.so.3", "/usr/arm-linux-gnueabihf"},
    {Arch::arm, "qemu-arm", "lib/ld-linux.so.3", "/usr/arm-linux-gnueabi"},
    {Arch::riscv64, "qemu-riscv64", "lib/ld-linux-riscv64-lp64d.so.1", "/usr/riscv64-linux-gnu"},
    {Arch::s390x, "qemu-s390x", "lib/ld64.so.1", "/usr/s390x-linux-gnu"},
    {Arch::x86, "qemu-i386", "lib/ld-linux.so.2", "/usr/i686-linux-gnu"},
};

std::string windows_starter(const Target& target) {
  // The 64-bit one alone takes 32-bit programs, says nothing, and starts none.
  if (target.arch == Arch::x86) {
    for (const char* folder : {"/usr/lib/i386-linux-gnu/wine/i386-windows", "/usr/lib/wine/i386-windows"}) {
      if (stamp_of(folder).is_folder() && find_program("wine")) return "wine";
    }
    return {};
  }
  if (target.arch != Arch::x86_64) return {};
  for (const char* name : {"wine64", "wine", "/usr/lib/wine/wine64"}) {
    if (find_program(name)) return name;
  }
  return {};
}

}  // namespace

bool starts_here(const Target& target) {
  if (target.format != Format::elf) return false;
  const Arch own = host_architecture();
  return own == target.arch || (own == Arch::x86_64 && target.arch == Arch::x86);
}

std::string starter_for(const Target& target, const std::vector<fs::path>& roots) {
  if (target.format == Format::pe) return windows_starter(target);
  if (target.format != Format::elf) return {};
  for (const auto& machine : emulated) {
    if (machine.arch != target.arch || !find_program(machine.emulator)) continue;
    std::vector<fs::path> places = roots;
    places.emplace_back(machine.root);
    for (const auto& root : places) {
      if (stamp_of(root / machine.loader).there()) return fmt::format("{} -L {}", machine.emulator, root.string());
    }
  }
  return {};
}

}  // namespace fibula
