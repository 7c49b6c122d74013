/// Compilers and assemblers. Relied on: the words of gcc/c-family and gcc/cp (GCC 4.8 to 14), of Clang's
/// DiagnosticLexKinds and DiagnosticSemaKinds, the codes of Microsoft's compiler (C1083, C1189, C2065, C3861), and GNU
/// as' and nasm's `FILE:LINE: Error:`.
#include "commands/said.hpp"

namespace fibula {
namespace {

using What = Complaint::Kind;

constexpr LineRow compiler_lines[] = {
    {"cc1: fatal error: {n}: No such file or directory", What::source_missing},
    {"cc1plus: fatal error: {n}: No such file or directory", What::source_missing},
    {"{w}: error: '{n}' in namespace '{d}' does not name a {*}", What::unknown_name},
    {"{w}: fatal error: {n}: No such file or directory", What::header_missing},
    {"{w}: error: {n}: No such file or directory", What::header_missing},
    {"{w}: fatal error: '{n}' file not found", What::header_missing},
    {"{w}: error: no include path in which to search for {n}", What::header_missing},
    {"{w}: fatal error: '{n}' file not found, did you mean '{d}'?", What::header_missing},
    {"{w}: error: '{n}' file not found with <angled> include; use \"quotes\" instead", What::header_missing},
    {"{w}: fatal error: cannot open file '{n}': {d}", What::header_missing},
    {"{w}: fatal error C1083: Cannot open include file: '{n}': No such file or directory", What::header_missing},
    {"{w}: fatal error C1083: Cannot open source file: '{n}'{d}", What::source_missing},
    {"{w}: fatal error: unable to open include file `{n}'", What::header_missing},
    {"{w}: error: unable to open include file `{n}'", What::header_missing},
    {"{w}: error: #error {n}", What::header_refuses},
    {"{w}: fatal error C1189: #error:{n}", What::header_refuses},
    {"{w}: error: static assertion failed: {n}", What::header_refuses},
    {"{w}: error: '{n}' was not declared in this scope{d}", What::unknown_name},
    {"{w}: error: '{n}' undeclared (first use in this function){d}", What::unknown_name},
    {"{w}: error: '{n}' undeclared here{d}", What::unknown_name},
    {"{w}: error: '{n}' does not name a type{d}", What::unknown_name},
    {"{w}: error: '{n}' has not been declared{d}", What::unknown_name},
    {"{w}: error: unknown type name '{n}'{d}", What::unknown_name},
    {"{w}: error: use of undeclared identifier '{n}'{d}", What::unknown_name},
    {"{w}: error: no template named '{n}'{d}", What::unknown_name},
    {"{w}: error: no type named '{n}' in {d}", What::unknown_name},
    {"{w}: error: no member named '{n}' in {d}", What::unknown_name},
    {"{w}: error: '{n}' is not a member of {d}", What::unknown_name},
    {"{w}: error: implicit declaration of function '{n}'{d}", What::unknown_name},
    {"{w}: error: call to undeclared function '{n}'{d}", What::unknown_name},
    {"{w}: error C2065: '{n}': undeclared identifier", What::unknown_name},
    {"{w}: error C3861: '{n}': identifier not found", What::unknown_name},
    {"{*}: error: no such file or directory: '{n}'", What::source_missing},
    {"{*}: fatal error: {n}: No such file or directory", What::source_missing},
    {"{w}: fatal error: {n}", What::language},
    {"{w}: error C{d}: {n}", What::language},
    {"{w}: fatal error C{d}: {n}", What::language},
    {"{w}: Error: {n}", What::assembler},
    {"{w}: error: parser: {n}", What::assembler},
    {"{w}: error: {n}", What::language},
};

}  // namespace

std::span<const LineRow> said_by_compilers() {
  return compiler_lines;
}

}  // namespace fibula
