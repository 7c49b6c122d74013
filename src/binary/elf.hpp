/// ELF: System V gABI chapters 4 and 5, with the GNU extensions for versions and hashes.
///
/// A file begins with a header that says its word size and byte order; both are run-time values here, one path reads
/// all four kinds. The section table serves linkers, the segment table serves loaders: a relocatable file has only the
/// first, a stripped program may have only the second. Names are offsets into string tables, which are sections
/// themselves.
#pragma once

#include "base/bytes.hpp"
#include "binary/image.hpp"

namespace fibula::dwarf {
struct Sections;
class Expanded;
}  // namespace fibula::dwarf

namespace fibula::elf {

struct Section {
  uint32_t name_at = 0;  ///< in File::section_names
  uint32_t type = 0;
  uint64_t flags = 0;
  uint64_t address = 0;
  uint64_t offset = 0;
  uint64_t size = 0;
  uint32_t link = 0;
  uint32_t info = 0;
  uint64_t entry_size = 0;
};

struct Segment {
  uint32_t type = 0;
  uint64_t offset = 0;
  uint64_t address = 0;
  uint64_t load_address = 0;  ///< where a device keeps it until start-up code copies it (p_paddr)
  uint64_t file_size = 0;
  uint64_t memory_size = 0;
};

/// Machines (gABI and processor supplements, e_machine).
constexpr uint16_t em_386 = 3, em_mips = 8, em_ppc = 20, em_arm = 40, em_x86_64 = 62, em_avr = 83, em_aarch64 = 183,
                   em_riscv = 243;

/// The two tables of an ELF file, checked.
struct File {
  Bytes bytes;
  bool wide = false;  ///< ELFCLASS64
  Order order = Order::little;
  uint8_t os_abi = 0;
  uint16_t type = 0;
  uint16_t machine = 0;
  uint32_t flags = 0;
  std::vector<Section> sections;
  /// Indices of the sections that are asked for by name or type: all but the code, data, relocations and groups of a
  /// relocatable file, of which it can have tens of thousands.
  std::vector<uint32_t> distinct;
  std::vector<Segment> segments;
  Bytes section_names;

  /// A section's name. Read when asked for: a member of an archive can have thousands, and linkers need none.
  Result<std::string_view> name_of(const Section& section) const;
  /// A section's bytes; empty for those that take no room in the file (SHT_NOBITS).
  Result<Bytes> content(const Section& section) const;
  /// The first of the distinct sections with this type or name; nothing when there is none.
  const Section* first_of_type(uint32_t type) const;
  const Section* named(std::string_view name) const;
  /// The bytes loaded at an address up to their segment's end.
  Result<Bytes> at_address(uint64_t address, std::string_view what) const;
};

constexpr uint32_t pt_load = 1, pt_dynamic = 2, pt_interp = 3, pt_note = 4;
constexpr uint16_t et_rel = 1;
constexpr uint16_t shn_xindex = 0xffff;  ///< the number is elsewhere
constexpr uint32_t sht_progbits = 1, sht_symtab = 2, sht_rela = 4, sht_dynamic = 6, sht_note = 7, sht_nobits = 8,
                   sht_rel = 9, sht_dynsym = 11, sht_group = 17, sht_symtab_shndx = 18, sht_arm_attributes = 0x70000003,
                   sht_gnu_verdef = 0x6ffffffd, sht_gnu_verneed = 0x6ffffffe, sht_gnu_versym = 0x6fffffff;
constexpr uint64_t shf_alloc = 2;

bool recognises(Bytes bytes);
/// Header and tables. Errors: truncated, malformed.
Result<File> read_file(Bytes bytes);

/// Header and segments: all that a loader reads. Errors: truncated, malformed.
Result<File> read_loader_tables(Bytes bytes);

/// A relocatable file with only two sections, its symbol table and that one's names: all that a walk over symbols needs
/// of the thousands that a member of an archive can have. No sections where there is no symbol table; nothing for other
/// types of file. Errors: truncated, malformed.
Result<std::optional<File>> read_symbol_sections(Bytes bytes);

/// The COMDAT groups of a relocatable file: signatures, and for each section the group it belongs to or -1.
struct Groups {
  std::vector<std::string_view> signatures;
  std::vector<int32_t> of_section;
};
Result<Groups> read_groups(const File& file);

/// The symbols of a section of type SHT_SYMTAB or SHT_DYNSYM, without the null entry, section and file symbols and the
/// local ones that stand first.
Result<std::vector<ImageSymbol>> read_symbols(const File& file, const Section& table, const Groups& groups,
                                              bool locals);
class VersionTable;
/// The same, one at a time, with the versions of a table of the loader. False when the table is that of a link-time
/// object without machine code, whose symbols are elsewhere.
Result<bool> walk_symbols(const File& file, const Section& table, const VersionTable* versions, const SymbolSink& sink);

/// What the loader reads; the dynamic symbols with their versions go to `symbols` where it is given.
Result<void> read_dynamic(const File& file, const SymbolSink* symbols, Image& image);

/// Build id, system and producers.
Result<void> read_notes(const File& file, Image& image);

/// Float ABI and least processor: build attributes, e_flags and property notes.
Result<void> read_processor(const File& file, Image& image);

/// GCC's link-time sections: sets `link_time`, and for objects without machine code their symbols.
Result<void> read_link_time(const File& file, unsigned want, Image& image);

/// The sections of debugging records, expanded where they are compressed: `keep` holds those. Errors: truncated,
/// malformed, missing_tool.
Result<dwarf::Sections> debug_sections(Bytes bytes, dwarf::Expanded& keep);

/// What the compiler recorded for debuggers.
Result<void> read_debug(const File& file, Image& image);

/// The value that a relocation with an addend (SHT_RELA) puts at an offset of a section of a relocatable file.
std::optional<uint64_t> relocated(const File& file, const Section& target, uint64_t offset);

/// All of these at once, sorted by offset: for who asks often.
std::vector<std::pair<uint64_t, uint64_t>> relocated_fields(const File& file, const Section& target);

/// Whether the code of a relocatable file is position independent; says nothing for architectures that have no table.
Result<void> read_pic(const File& file, Image& image);

/// Where a relocation in a section that is kept refers to a symbol of the linker's table: "main.o, section .text".
/// `dropped` tells of each section whether it was discarded. Nothing when no relocation does.
Result<std::optional<std::string>> reference_to(const File& file, uint32_t symbol_index,
                                                const std::vector<bool>& dropped);

/// The whole of it. Errors: truncated, malformed.
Result<Image> read(Bytes bytes, unsigned want);

/// Only the symbols that linkers and loaders read. Errors: truncated, malformed.
Result<void> walk(Bytes bytes, const SymbolSink& sink);
/// The same of the table that a linked file has for debuggers: of a program without dynamic symbols there is no other.
Result<void> walk_own_table(Bytes bytes, const SymbolSink& sink);

}  // namespace fibula::elf
