/// The header, sections and strings of a COFF file, before what they mean is put into an Image. Images of Windows have
/// the same tables behind their own header.
#pragma once

#include "base/bytes.hpp"

#include <fibula/target.hpp>

#include <string_view>
#include <vector>

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

/// Sections and strings behind a COFF file header at `at`, which an image has too.
Result<File> read_tables(Bytes bytes, uint64_t at, uint64_t optional_header_end);

/// The tables of an object in any of its forms. Errors: truncated, malformed.
Result<File> read_file(Bytes bytes);

/// Whether these bytes can be an object: the two newer forms have a mark, the ordinary one has none, so its tables are
/// looked at.
bool is_object(Bytes bytes);

}  // namespace fibula::coff
