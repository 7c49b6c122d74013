/// What a compiler makes code for, told by its predefined macros.
#include "toolchain/answers.hpp"

namespace fibula {
namespace {

struct ArchMacro {
  std::string_view macro;
  Arch little, big;
};

/// The first macro that is there decides; the order matters where one compiler defines several.
constexpr ArchMacro arch_macros[] = {
    {"__x86_64__", Arch::x86_64, Arch::unknown},
    {"__i386__", Arch::x86, Arch::unknown},
    {"_M_X64", Arch::x86_64, Arch::unknown},
    {"_M_IX86", Arch::x86, Arch::unknown},
    {"_M_ARM64", Arch::aarch64, Arch::unknown},
    {"__aarch64__", Arch::aarch64, Arch::aarch64},
    {"__arm__", Arch::arm, Arch::arm},
    {"__riscv", Arch::riscv64, Arch::unknown},
    {"__AVR__", Arch::avr, Arch::unknown},
    {"__powerpc64__", Arch::ppc64le, Arch::ppc64},
    {"__powerpc__", Arch::ppc, Arch::ppc},
    {"__s390x__", Arch::unknown, Arch::s390x},
    {"__mips64", Arch::mips64el, Arch::mips64},
    {"__mips__", Arch::mipsel, Arch::mips},
    {"__loongarch64", Arch::loongarch64, Arch::unknown},
    {"__sparc__", Arch::unknown, Arch::sparc},
    {"__hppa__", Arch::unknown, Arch::hppa},
    {"__alpha__", Arch::alpha, Arch::unknown},
    {"__m68k__", Arch::unknown, Arch::m68k},
    {"__sh__", Arch::sh, Arch::sh},
};

Arch arch_from(const Macros& macros, int bits, Endian endian) {
  for (const auto& row : arch_macros) {
    if (!macros.has(row.macro)) continue;
    const Arch arch = endian == Endian::big ? row.big : row.little;
    if (arch == Arch::x86_64 && bits == 32) return Arch::x32;
    if (arch == Arch::riscv64 && bits == 32) return Arch::riscv32;
    return arch;
  }
  return Arch::unknown;
}

Format format_from(const Macros& macros) {
  if (macros.has("_WIN32")) return Format::pe;
  if (macros.has("__APPLE__")) return Format::macho;
  // Bare-metal compilers of old define neither; ELF is all that they make.
  if (macros.has("__ELF__") || macros.has("__AVR__")) return Format::elf;
  return Format::unknown;
}

}  // namespace

Target target_from(const Macros& macros) {
  Target target;
  // AVR's pointers have 16 bits, and its files 32.
  target.bits = macros.has("__AVR__") ? 32 : 8 * static_cast<int>(macros.number("__SIZEOF_POINTER__"));
  target.endian = macros.value("__BYTE_ORDER__") == "__ORDER_BIG_ENDIAN__" ? Endian::big : Endian::little;
  target.arch = arch_from(macros, target.bits, target.endian);
  target.format = format_from(macros);
  return target;
}

}  // namespace fibula
