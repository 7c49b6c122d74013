/// LLVM bitcode (LLVM documentation, "LLVM Bitcode File Format"): link-time objects of Clang and its relatives.
///
/// The file is a stream of bits: blocks that hold records, each laid out by an abbreviation. Only four blocks are
/// looked into: who wrote it (IDENTIFICATION), for which target (MODULE), and the linker's symbol table (SYMTAB) with
/// its texts (STRTAB), a plain table in the form of LLVM's Object/IRSymtab.h. A wrapper may stand before the stream.
#pragma once

#include "base/bytes.hpp"
#include "binary/image.hpp"

namespace fibula::bitcode {

bool recognises(Bytes bytes);
/// Errors: truncated, malformed.
Result<Image> read(Bytes bytes, unsigned want);
Result<void> walk(Bytes bytes, const SymbolSink& sink);

}  // namespace fibula::bitcode
