/// Microsoft's linker and Apple's. Relied on: the codes LNK1104, LNK1112, LNK1120, LNK1136, LNK1181, LNK2001, LNK2005,
/// LNK2019, LNK2026, LNK2038 (Microsoft C++ documentation, "Linker tools errors and warnings"), and the words of ld64.
#include "commands/said.hpp"

namespace fibula {
namespace {

using What = Complaint::Kind;

constexpr LineRow msvc_lines[] = {
    {"{w} : error LNK2019: unresolved external symbol \"{d}\" ({n}) referenced in function {*}", What::undefined},
    {"{w} : error LNK2001: unresolved external symbol \"{d}\" ({n})", What::undefined},
    {"{w} : error LNK2019: unresolved external symbol {n} referenced in function {d}", What::undefined},
    {"{w} : error LNK2001: unresolved external symbol {n}", What::undefined},
    {"{*} : fatal error LNK1104: cannot open file '{n}'", What::library_missing},
    {"{*} : fatal error LNK1181: cannot open input file '{n}'", What::library_missing},
    {"{f} : fatal error LNK1112: module machine type '{w}' conflicts with target machine type '{d}'",
     What::wrong_machine},
    {"{f} : fatal error LNK1107: invalid or corrupt file: {d}", What::wrong_format},
    {"{f} : fatal error LNK1136: invalid or corrupt file", What::wrong_format},
    {"{f} : error LNK2005: {n} already defined in {w}", What::duplicate},
    {"{f} : error LNK2038: mismatch detected for '{n}': {d}", What::flavour},
    {"{*} : error LNK1561: entry point must be defined", What::no_subsystem},
    {"{*} : fatal error LNK1561: entry point must be defined", What::no_subsystem},
    {"{*} : fatal error LNK1104: cannot open output file '{n}'", What::unwritten},
    {"{*} : fatal error LNK1168: cannot open {n} for writing", What::unwritten},
    {"{*} : fatal error LNK1201: error writing to program database '{n}'; {d}", What::unwritten},
    {"ld: building for '{d}', but linking in {*} file ({f}) built for '{w}'", What::wrong_machine},
    {"ld: building for {d}, but linking in {*} file ({f}) built for {w}", What::wrong_machine},
    {"ld: in {f}, building for {d}, but linking in {*} file built for {w}, {*}", What::wrong_machine},
    {"  \"{n}\", referenced from:", What::undefined},
    {"ld: library not found for -l{n}", What::library_missing},
    {"ld: library '{n}' not found", What::library_missing},
    {"ld: framework not found {n}", What::library_missing},
    {"ld: warning: ignoring file {f}, building for {d} but attempting to link with file built for {w}",
     What::library_skipped},
    {"ld: warning: ignoring file '{f}': found architecture '{w}', required architecture '{d}'", What::library_skipped},
    {"duplicate symbol '{n}' in:", What::duplicate},
};

}  // namespace

std::span<const LineRow> said_by_link() {
  return msvc_lines;
}

}  // namespace fibula
