/// LLD for ELF, Windows (both command lines) and Mach-O, and mold. Relied on: the words of lld/ELF, lld/COFF, lld/MachO
/// and lld/MinGW (LLVM 11 to 18) and of mold's elf/ (1.4 to 2.4).
#include "commands/said.hpp"

namespace fibula {
namespace {

using What = Complaint::Kind;

constexpr LineRow lld_lines[] = {
    {"{*}: error: undefined symbol: {n}", What::undefined},
    {"{*}: error: undefined hidden symbol: {n}", What::hidden},
    {"{*}: error: undefined reference due to --no-allow-shlib-undefined: {n}", What::undefined},
    {"{*}: error: {w}: undefined reference to {n} [--no-allow-shlib-undefined]", What::undefined},
    {"{*}: error: <root>: undefined symbol: {n}", What::undefined},
    {"{*}: error: unable to find library -l{n}", What::library_missing},
    {"{*}: error: unable to find library from dependent library specifier: {n}", What::library_missing},
    {"{*}: fatal: library not found: {n}", What::library_missing},
    {"{*}: error: library not found for -l{n}", What::library_missing},
    {"{*}: error: framework not found for -framework {n}", What::library_missing},
    {"{*}: error: framework not found {n}", What::library_missing},
    {"{*}: error: could not open '{n}': No such file or directory", What::library_missing},
    {"{*}: error: cannot open {f}: No such file or directory", What::file_missing},
    {"{*}: fatal: cannot open {f}: No such file or directory", What::file_missing},
    {"{*}: error: {f} is incompatible with {d}", What::wrong_machine},
    {"{*}: fatal: {f}: incompatible file type: {d}", What::wrong_machine},
    {"{*}: error: {f}: incompatible file type: {d}", What::wrong_machine},
    {"{*}: warning: {f}: skipping incompatible file {d}", What::library_skipped},
    {"{*}: error: {f}: machine type {d} conflicts with {*}", What::wrong_machine},
    {"{*}: warning: {f} has architecture {d} which is incompatible with target architecture {*}", What::wrong_machine},
    {"{*}: error: unable to find matching architecture in {f}", What::wrong_machine},
    {"{*}: error: {f} has platform {d}, which is different from target platform {*}", What::wrong_machine},
    {"{*}: error: {f}: not an ELF file", What::wrong_format},
    {"{*}: error: {f}: unknown file type", What::wrong_format},
    {"{*}: fatal: {f}: unknown file type", What::wrong_format},
    {"{*}: error: {f}: unhandled file type", What::wrong_format},
    {"{*}: error: {f}: bad file type. Did you specify a DLL instead of an import library?", What::dll_on_line},
    {"{*}: error: {f}:{*}: unknown directive: {d}", What::no_library},
    {"{*}: error: {f}: invalid sh_type for {d}", What::truncated},
    {"{*}: error: {f}: failed to parse archive: {d}", What::truncated},
    {"{*}: error: {f}: section header table goes past the end of the file: {d}", What::truncated},
    {"{*}: error: {f}: could not get the buffer for the member defining symbol {d}: '{n}': No such file or directory",
     What::member_gone},
    {"{*}: error: {f}: could not get the buffer for a child {d}", What::member_gone},
    {"{*}: fatal: {f}: not claimed by the LTO plugin; {d}", What::foreign_lto},
    {"{*}: fatal: {f}: don't know how to handle this LTO object file{d}", What::foreign_lto},
    {"{*}: error: relocation {d} cannot be used against symbol '{n}'; recompile with -fPIC", What::not_pic},
    {"{*}: error: relocation {d} cannot be used against local symbol; recompile with -fPIC", What::not_pic},
    {"{*}: error: {f}:({*}): {d} relocation at offset {*} against symbol `{n}' can not be used; recompile with -fPIC",
     What::not_pic},
    {"mold: error: duplicate symbol: {w}: {f}: {n}", What::duplicate},
    {"{*}: error: duplicate symbol: {n}", What::duplicate},
    {"{*}: error: /failifmismatch: mismatch detected for '{n}':", What::flavour},
    {"{*}: error: TLS attribute mismatch: {n}", What::thread_kind},
    {"{*}: error: subsystem must be defined", What::no_subsystem},
    {"{*}: error: attempted static link of dynamic object {f}", What::static_of_shared},
    {"{*}: error: {f}: cannot link object files with different floating-point ABI{d}", What::float_abi},
    {"{*}: error: section '{d}' will not fit in region '{n}': overflowed by {*} bytes", What::no_room},
};

}  // namespace

std::span<const LineRow> said_by_lld() {
  return lld_lines;
}

}  // namespace fibula
