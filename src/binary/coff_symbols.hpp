#pragma once

#include "binary/coff_file.hpp"
#include "binary/image.hpp"

namespace fibula::coff {

/// Symbols and COMDAT groups (PE Format specification, "COFF Symbol Table", "COMDAT Sections"). Errors: truncated,
/// malformed.
Result<void> read_symbols(const File& file, Image& image);
/// The group of each section, counted from 1 as symbols do; -1: none.
Result<std::vector<int32_t>> groups_of_sections(const File& file);
/// External symbols only, without groups.
Result<void> walk_symbols(const File& file, const SymbolSink& sink);

/// The value of `@comp.id`, which Microsoft's compilers put among the first symbols: tool in the upper half, build in
/// the lower one; 0 where there is none.
uint32_t compiler_id(const File& file);

}  // namespace fibula::coff
