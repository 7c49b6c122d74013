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

std::string to_string(const Target& target) {
  return fmt::format("{}-bit {} {}", target.bits, to_string(target.arch), to_string(target.format));
}

}  // namespace fibula
