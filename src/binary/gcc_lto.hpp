/// GCC's link-time-optimisation sections (GCC Internals, "LTO object file layout"), in ELF and COFF objects alike.
/// Names begin with `.gnu.lto_` and end in an identifier of the object. A slim object has nothing else; a fat one has
/// machine code too. `.symtab.` is the table that the linker's plugin hands over (lto-plugin, "parse_table_entry").
#pragma once

#include "base/bytes.hpp"
#include "binary/image.hpp"

namespace fibula::gcc_lto {

constexpr std::string_view prefix = ".gnu.lto_";
constexpr std::string_view symbol_table = ".gnu.lto_.symtab.";
constexpr std::string_view header = ".gnu.lto_.lto.";
/// The symbol by which tools know an object without machine code: the first global one of its ordinary table.
constexpr std::string_view slim_mark = "__gnu_lto_slim";

/// Adds the symbols, and the COMDAT groups that they name. Errors: truncated.
Result<void> read_symbols(Bytes table, Order order, Image& image);

/// Version and kind from the header section (GCC 10 and later). Errors: truncated.
Result<LinkTimeMark> read_header(Bytes section, Order order);

}  // namespace fibula::gcc_lto
