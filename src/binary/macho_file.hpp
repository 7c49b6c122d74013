/// The header and the load commands of a Mach-O file, before what they mean is put into an Image.
#pragma once

#include "base/bytes.hpp"
#include "binary/image.hpp"

namespace fibula::macho {

struct Command {
  uint32_t kind = 0;
  Bytes bytes;  ///< with its header of eight bytes
};

struct Section {
  std::string_view segment, name;
  uint64_t size = 0;
  uint32_t offset = 0;
  uint32_t flags = 0;
};

struct File {
  Bytes bytes;
  bool wide = false;
  Order order = Order::little;
  uint32_t cpu_type = 0, cpu_subtype = 0, file_type = 0, flags = 0;
  std::vector<Command> commands;
  std::vector<Section> sections;  ///< of all segments, in order; symbols count them from one

  Cursor cursor(const Command& command) const {
    Cursor c(command.bytes, order, "load command");
    c.skip(8);
    return c;
  }
  const Command* first(uint32_t kind) const;
  /// Nothing for sections that take no room in the file. Errors: truncated.
  Result<Bytes> content(const Section& section) const;
};

constexpr uint32_t lc_segment = 0x1, lc_symtab = 0x2, lc_load_dylib = 0xc, lc_id_dylib = 0xd, lc_load_dylinker = 0xe,
                   lc_load_weak_dylib = 0x80000018, lc_segment_64 = 0x19, lc_uuid = 0x1b, lc_rpath = 0x8000001c,
                   lc_reexport_dylib = 0x8000001f, lc_lazy_load_dylib = 0x20, lc_encryption = 0x21, lc_dyld_info = 0x22,
                   lc_dyld_info_only = 0x80000022, lc_load_upward_dylib = 0x80000023, lc_min_macos = 0x24,
                   lc_min_ios = 0x25, lc_encryption_64 = 0x2c, lc_linker_option = 0x2d, lc_min_tvos = 0x2f,
                   lc_min_watchos = 0x30, lc_build_version = 0x32, lc_exports_trie = 0x80000033;

/// Errors: truncated, malformed.
Result<File> read_file(Bytes bytes);

/// External symbols of the symbol table. Names of the objects that the debug map refers to go to `debug_files`.
Result<void> walk_symbols(const File& file, const std::vector<Need>& needs, const SymbolSink& sink,
                          std::vector<std::string_view>* debug_files);

/// Names of the export trie: false when there is none. Their text is lent for the call. Errors: truncated, malformed,
/// limit.
Result<bool> walk_exports(const File& file, const std::vector<Need>& needs, const SymbolSink& sink);

}  // namespace fibula::macho
