/// COFF objects (PE Format specification, sections "COFF File Header", "Section Table", "COFF Symbol Table").
///
/// A file begins with its machine number; there is no magic. The big-object form (compilers use it for more than 65,279
/// sections) and the short import member (one symbol of a DLL, in an import library) begin with 0 and 0xffff instead
/// and tell each other apart by their version. Names longer than eight bytes stand in a string table behind the
/// symbols. Compilers leave options for the linker in a section `.drectve`.
#pragma once

#include "binary/coff_file.hpp"
#include "binary/image.hpp"

namespace fibula::dwarf {
struct Sections;
}

namespace fibula::coff {

bool recognises(Bytes bytes);
/// Errors: truncated, malformed.
Result<Image> read(Bytes bytes, unsigned want);
Result<void> walk(Bytes bytes, const SymbolSink& sink);

/// Splits a `.drectve` section at its blanks; quotes keep blanks together.
std::vector<std::string_view> split_directives(std::string_view text);

/// DWARF's sections; empty where there are none.
dwarf::Sections debug_sections(const File& file);
/// What was recorded for debuggers: DWARF, or the presence of `.debug$S`.
void read_debug(const File& file, Image& image);

}  // namespace fibula::coff
