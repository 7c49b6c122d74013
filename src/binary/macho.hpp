/// Mach-O: objects, programs, dynamic libraries and bundles of macOS and its relatives ("OS X ABI Mach-O File Format
/// Reference"; loader.h, nlist.h).
///
/// A header is followed by load commands: each says its size, and what it describes lies elsewhere in the file. Linkers
/// read the symbol table; loaders of newer systems read the exported names from a trie.
#pragma once

#include "base/bytes.hpp"
#include "binary/image.hpp"

namespace fibula::dwarf {
struct Sections;
}

namespace fibula::macho {

bool recognises(Bytes bytes);
/// Errors: truncated, malformed.
Result<Image> read(Bytes bytes, unsigned want);
Result<void> walk(Bytes bytes, const SymbolSink& sink);

/// DWARF's sections; empty where there are none. Errors: truncated, malformed.
Result<dwarf::Sections> debug_sections(Bytes bytes);

/// Architecture and word size of a pair of cputype and cpusubtype.
Target target_of(uint32_t type, uint32_t subtype);

}  // namespace fibula::macho
