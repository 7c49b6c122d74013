/// The BFD linker and gold. Relied on: the words of binutils' ld/ldmain.c, ld/ldlang.c, ld/ldfile.c, bfd/elflink.c,
/// bfd/elf32-arm.c, bfd/elfnn-riscv.c and gold/errors.cc (2.25 to 2.42).
#include "commands/said.hpp"

namespace fibula {
namespace {

using What = Complaint::Kind;

constexpr LineRow bfd_lines[] = {
    {"{w}: undefined reference to symbol '{n}'", What::not_on_line},
    {"{w}: undefined reference to symbol `{n}'", What::not_on_line},
    {"{w}: error: undefined reference to '{n}', version '{d}'", What::undefined},
    {"{w}: undefined reference to `{n}'", What::undefined},
    {"{w}: undefined reference to '{n}'", What::undefined},
    {"{w}: more undefined references to `{n}' follow", What::undefined},
    {"{*}: skipping incompatible {f} when searching for -l{n}", What::library_skipped},
    {"{*}: skipping incompatible {f} when searching for {n}", What::library_skipped},
    {"{*}: skipping incompatible {f} while searching for {n}", What::library_skipped},
    {"{*}: cannot find -l{n}: No such file or directory", What::library_missing},
    {"{*}: cannot find -l{n}: {d}", What::library_missing},
    {"{*}: cannot find -l{n}", What::library_missing},
    {"{*}: library not found: {n}", What::library_missing},
    {"{*}: cannot find {f}: No such file or directory", What::file_missing},
    {"{*}: cannot find {f}: file not found", What::file_missing},
    {"{*}: error: cannot open {f}: No such file or directory", What::file_missing},
    {"{*}: {d} architecture of input file `{f}' is incompatible with {*} output", What::wrong_machine},
    {"{*}: {f}: Relocations in generic ELF (EM: {d})", What::wrong_machine},
    {"{*}: {f}: error adding symbols: file in wrong format", What::wrong_machine},
    {"{*}: {f}: error adding symbols: file format not recognized", What::wrong_format},
    {"{*}: {f}: error adding symbols: archive has no index; run ranlib to add one", What::no_index},
    {"{*}: {f}: error adding symbols: no more archived files", What::truncated},
    {"{*}: {f}: error adding symbols: malformed archive", What::truncated},
    {"{*}: {f}: error adding symbols: file truncated", What::truncated},
    {"{*}: {f}: error adding symbols: DSO missing from command line", What::not_on_line},
    {"{*}: {f}: file not recognized: file truncated", What::truncated},
    {"{f}: file not recognized: file truncated", What::truncated},
    {"{*}: {f}: file not recognized: file format not recognized", What::wrong_format},
    {"{f}: file not recognized: file format not recognized", What::wrong_format},
    {"{*}: {f}: file not recognized", What::wrong_format},
    {"{*}ld:{f}: file format not recognized; treating as linker script", What::no_library},
    {"{*}ld.bfd:{f}: file format not recognized; treating as linker script", What::no_library},
    {"{*}:{f}: file format not recognized; treating as linker script", What::no_library},
    {"{*}: error: {f}: plugin failed to claim member {d}", What::wrong_format},
    {"{*}: error: {f}: not an object or archive", What::no_library},
    {"{*}: fatal error: {f}: unsupported ELF machine number {d}", What::wrong_machine},
    {"{*}: error: {f}: incompatible target", What::wrong_machine},
    {"{*}: {f}: ABI is incompatible with that of the selected emulation:", What::wrong_machine},
    {"{*}: fatal error: {f}: attempt to map {d}", What::truncated},
    {"{*}: error: {f}: file is empty", What::truncated},
    {"{*}: error: {f}: no archive symbol table (run ranlib)", What::no_index},
    {"{*}: {f}({n}): error opening thin archive member: No such file or directory", What::member_gone},
    {"{*}: {f}: plugin needed to handle lto object", What::foreign_lto},
    {"lto1: fatal error: bytecode stream in file '{f}' generated with LTO version {d}", What::foreign_lto},
    {"{*}: {f}: relocation {d} against {n} can not be used when making a {*} object; recompile with {*}",
     What::not_pic},
    {"{*}: error: {f}: requires dynamic {d} reloc against '{n}' which may overflow at runtime; {*}", What::not_pic},
    {"{*}: error: {f}: requires unsupported dynamic reloc {d}; recompile with -fPIC", What::not_pic},
    {"{*}: error: {f}: multiple definition of '{n}'", What::duplicate},
    {"{*}: {f}: multiple definition of `{n}'; {w}: first defined here", What::duplicate},
    {"{f}: multiple definition of `{n}'; {w}: first defined here", What::duplicate},
    {"{*}: error: {*} uses VFP register arguments, {f} does not", What::float_abi},
    {"{*}: error: {f} uses VFP register arguments, {*} does not", What::float_abi},
    {"{*}: {f}: can't link {d} modules with {*} modules", What::float_abi},
    {"{*}: error: {f}: conflicting architecture profiles {d}", What::processor},
    {"{*}: error: {f}: conflicting CPU architectures {d}", What::processor},
    {"{*}: {f} section `{d}' will not fit in region `{n}'", What::no_room},
    {"{*}: region `{n}' overflowed by {d} bytes", What::no_room},
    {"{*}: attempted static link of dynamic object `{f}'", What::static_of_shared},
    {"{*}: error: cannot mix -static with dynamic object {f}", What::static_of_shared},
    {"{*}: warning: {n}, needed by {f}, not found (try using -rpath or -rpath-link)", What::need_missing},
    {"{*}: {n}: TLS reference in {w} mismatches non-TLS {*} in {f} section {*}", What::thread_kind},
    {"{*}: {n}: TLS definition in {f} section {*} mismatches non-TLS {*} in {w}", What::thread_kind},
    {"{*}: {n}: TLS reference in {w} mismatches non-TLS reference in {f}", What::thread_kind},
    {"{*}: error: {f}: symbol '{n}' used as both __thread and non-__thread", What::thread_kind},
    {"{*}: hidden symbol `{n}' in {f} is referenced by DSO", What::hidden},
    {"{*}: {w}: hidden symbol `{n}' isn't defined", What::hidden},
};

}  // namespace

std::span<const LineRow> said_by_bfd() {
  return bfd_lines;
}

}  // namespace fibula
