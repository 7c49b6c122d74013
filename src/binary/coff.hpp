/// COFF objects (PE Format specification, sections "COFF File Header", "Section Table", "COFF Symbol Table").
///
/// A file begins with its machine number; there is no magic. The big-object form (compilers use it for more than 65,279
/// sections) and the short import member (one symbol of a DLL, in an import library) begin with 0 and 0xffff instead
/// and tell each other apart by their version. Names longer than eight bytes stand in a string table behind the
/// symbols. Compilers leave options for the linker in a section `.drectve`.
#pragma once

#include "base/bytes.hpp"
#include "binary/image.hpp"

namespace fibula::coff {

struct Section {
  std::string_view name;
  uint32_t size = 0;
  uint32_t address = 0;  ///< in an image, from its base
  uint32_t memory_size = 0;
  uint32_t offset = 0;
  uint32_t relocations_at = 0;
  uint32_t relocations = 0;
  uint32_t flags = 0;
};

/// The header of an object or an image, with its tables found.
struct File {
  Bytes bytes;
  uint16_t machine = 0;
  uint16_t characteristics = 0;
  bool big = false;            ///< big-object form
  bool whole_program = false;  ///< MSVC's link-time code, which only its own linker reads
  uint32_t symbols_at = 0;
  uint32_t symbol_count = 0;
  std::vector<Section> sections;
  Bytes strings;  ///< with its size in the first four bytes

  Result<Bytes> content(const Section& section) const;
  const Section* named(std::string_view name) const;
};

constexpr uint32_t in_memory_discardable = 0x02000000, uninitialised = 0x00000080, removed = 0x00000800,
                   comdat = 0x00001000;

/// Arch::unknown for a number that is not known.
Arch arch_of(uint16_t machine);
int bits_of(Arch arch);

bool recognises(Bytes bytes);
/// Errors: truncated, malformed.
Result<Image> read(Bytes bytes, unsigned want);
Result<bool> walk(Bytes bytes, const SymbolSink& sink);

/// Sections and strings behind a COFF file header at `at`, which an image has too.
Result<File> read_tables(Bytes bytes, uint64_t at, uint64_t optional_header_end);

/// Splits a `.drectve` section at its blanks; quotes keep blanks together.
std::vector<std::string_view> split_directives(std::string_view text);

/// What was recorded for debuggers: DWARF, or the presence of `.debug$S`.
void read_debug(const File& file, Image& image);

}  // namespace fibula::coff
