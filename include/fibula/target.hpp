/// What machine and object format a file is for, or a compiler makes code for.
#pragma once

#include <fibula/export.hpp>

#include <string>
#include <string_view>

namespace fibula {

/// The form of a file's bytes.
enum class Format {
  unknown,
  elf,      ///< System V gABI: Linux, the BSDs, bare metal
  coff,     ///< Windows object files and short import members
  pe,       ///< Windows images: programs and DLLs
  macho,    ///< macOS and its relatives
  bitcode,  ///< LLVM link-time-optimisation objects
  gcc_lto,  ///< GCC link-time-optimisation objects without machine code
  script,   ///< a linker script in place of a library
  stub,     ///< a text stub (.tbd) in place of a dynamic library
};

enum class Arch {
  unknown,
  x86,
  x86_64,
  x32,  ///< x86-64 instructions with 32-bit pointers
  arm,
  aarch64,
  arm64e,   ///< with pointer authentication
  arm64ec,  ///< callable from emulated x86-64 code on Windows
  riscv32,
  riscv64,
  avr,
  ppc,
  ppc64,
  ppc64le,
  s390,
  s390x,
  mips,
  mipsel,
  mips64,
  mips64el,
  sparc,
  sparc64,
  m68k,
  alpha,
  hppa,
  ia64,
  sh,
  loongarch64,
  msp430,
  xtensa,
  bpf,
};

enum class Endian { little, big };

FIBULA_API std::string_view to_string(Format format);
FIBULA_API std::string_view to_string(Arch arch);
FIBULA_API std::string_view to_string(Endian endian);
/// The architecture of that name, or `Arch::unknown`.
FIBULA_API Arch arch_named(std::string_view name);
/// The format of that name, or `Format::unknown`.
FIBULA_API Format format_named(std::string_view name);

struct Target {
  Format format = Format::unknown;
  Arch arch = Arch::unknown;
  int bits = 0;  ///< size of an address
  Endian endian = Endian::little;

  bool operator==(const Target&) const = default;
};

/// What an object file, an image and a text in place of an image are for is the same: `coff` counts as `pe`, `stub` as
/// `macho`.
FIBULA_API Format family_of(Format format);
/// Whether code for the one can be part of a link for the other: their formats are of one family, all else is equal.
FIBULA_API bool same_family(const Target& one, const Target& other);

/// What a target triple of the GNU or LLVM form names: "x86_64-pc-linux-gnu", "arm64-apple-macosx11.0".
FIBULA_API Target target_of_triple(std::string_view triple);

/// `64-bit x86_64 elf`.
FIBULA_API std::string to_string(const Target& target);

}  // namespace fibula
