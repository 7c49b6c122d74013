#include <fibula/target.hpp>

#include "base/names.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

constexpr Name<Format> formats[] = {
    {Format::elf, "elf"},         {Format::coff, "coff"},       {Format::pe, "pe"},         {Format::macho, "macho"},
    {Format::bitcode, "bitcode"}, {Format::gcc_lto, "gcc-lto"}, {Format::script, "script"}, {Format::stub, "stub"},
};

constexpr Name<Arch> archs[] = {
    {Arch::x86, "x86"},           {Arch::x86_64, "x86_64"},   {Arch::x32, "x32"},
    {Arch::arm, "arm"},           {Arch::aarch64, "aarch64"}, {Arch::arm64e, "arm64e"},
    {Arch::arm64ec, "arm64ec"},   {Arch::riscv32, "riscv32"}, {Arch::riscv64, "riscv64"},
    {Arch::avr, "avr"},           {Arch::ppc, "ppc"},         {Arch::ppc64, "ppc64"},
    {Arch::ppc64le, "ppc64le"},   {Arch::s390, "s390"},       {Arch::s390x, "s390x"},
    {Arch::mips, "mips"},         {Arch::mipsel, "mipsel"},   {Arch::mips64, "mips64"},
    {Arch::mips64el, "mips64el"}, {Arch::sparc, "sparc"},     {Arch::sparc64, "sparc64"},
    {Arch::m68k, "m68k"},         {Arch::alpha, "alpha"},     {Arch::hppa, "hppa"},
    {Arch::ia64, "ia64"},         {Arch::sh, "sh"},           {Arch::loongarch64, "loongarch64"},
    {Arch::msp430, "msp430"},     {Arch::xtensa, "xtensa"},   {Arch::bpf, "bpf"},
};

constexpr Name<Endian> endians[] = {{Endian::little, "little"}, {Endian::big, "big"}};

}  // namespace

std::string_view to_string(Format format) {
  return name_in<Format>(formats, format);
}
std::string_view to_string(Arch arch) {
  return name_in<Arch>(archs, arch);
}
std::string_view to_string(Endian endian) {
  return name_in<Endian>(endians, endian);
}
Arch arch_named(std::string_view name) {
  return value_in<Arch>(archs, name).value_or(Arch::unknown);
}
Format format_named(std::string_view name) {
  return value_in<Format>(formats, name).value_or(Format::unknown);
}

Target target_of_triple(std::string_view triple) {
  struct Row {
    std::string_view start;  ///< of the first part; longer ones before those they begin with
    Arch arch;
    int bits;
    Endian endian = Endian::little;
  };
  static constexpr Row rows[] = {
      {"x86_64", Arch::x86_64, 64},
      {"arm64ec", Arch::arm64ec, 64},
      {"arm64e", Arch::arm64e, 64},
      {"arm64", Arch::aarch64, 64},
      {"aarch64_be", Arch::aarch64, 64, Endian::big},
      {"aarch64", Arch::aarch64, 64},
      {"armeb", Arch::arm, 32, Endian::big},
      {"arm", Arch::arm, 32},
      {"thumb", Arch::arm, 32},
      {"riscv32", Arch::riscv32, 32},
      {"riscv64", Arch::riscv64, 64},
      {"avr", Arch::avr, 16},
      {"powerpc64le", Arch::ppc64le, 64},
      {"powerpc64", Arch::ppc64, 64, Endian::big},
      {"powerpc", Arch::ppc, 32, Endian::big},
      {"s390x", Arch::s390x, 64, Endian::big},
      {"mips64el", Arch::mips64el, 64},
      {"mips64", Arch::mips64, 64, Endian::big},
      {"mipsel", Arch::mipsel, 32},
      {"mips", Arch::mips, 32, Endian::big},
      {"loongarch64", Arch::loongarch64, 64},
  };
  const auto first = triple.substr(0, triple.find('-'));
  Target target;
  for (const auto& row : rows) {
    if (!first.starts_with(row.start)) continue;
    target = {.arch = row.arch, .bits = row.bits, .endian = row.endian};
    break;
  }
  const bool intel = first.size() == 4 && first[0] == 'i' && first.ends_with("86");
  if (intel) target = {.arch = Arch::x86, .bits = 32};
  if (triple.ends_with("gnux32")) target = {.arch = Arch::x32, .bits = 32};
  return target;
}

std::string to_string(const Target& target) {
  // Its files are of the 32-bit class, and the machine has registers of 8.
  if (target.arch == Arch::avr) return fmt::format("8-bit avr {}", to_string(target.format));
  return fmt::format("{}-bit {} {}", target.bits, to_string(target.arch), to_string(target.format));
}

Format family_of(Format format) {
  if (format == Format::coff) return Format::pe;
  return format == Format::stub ? Format::macho : format;
}

bool same_family(const Target& one, const Target& other) {
  return family_of(one.format) == family_of(other.format) && one.arch == other.arch && one.bits == other.bits &&
         one.endian == other.endian;
}

}  // namespace fibula
