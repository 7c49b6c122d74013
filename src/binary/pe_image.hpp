/// The header of a PE image, and how addresses in it are found in the file.
#pragma once

#include "binary/coff_file.hpp"
#include "binary/image.hpp"

#include <array>

namespace fibula::pe {

enum Directory : unsigned {
  dir_export = 0,
  dir_import = 1,
  dir_resource = 2,
  dir_debug = 6,
  dir_delay_import = 13,
  directory_count = 16
};

struct Range {
  uint32_t address = 0;
  uint32_t size = 0;
};

struct File {
  coff::File coff;
  bool wide = false;  ///< PE32+
  uint8_t linker_major = 0, linker_minor = 0;
  uint16_t system_major = 0, system_minor = 0;  ///< least subsystem version
  uint16_t subsystem = 0;
  uint64_t base = 0;
  uint32_t header_size = 0;
  std::array<Range, directory_count> directories{};

  /// The bytes at an address up to the end of what its section has in the file.
  Result<Bytes> at(uint64_t address, std::string_view what) const;
  /// The text at an address.
  Result<std::string_view> text(uint64_t address, std::string_view what) const;
};

/// Errors: truncated, malformed.
Result<File> read_file(Bytes bytes);

/// What the image takes from DLLs, at start and when first called. Needs go to `needs`, names to `sink`.
Result<void> read_imports(const File& file, std::vector<Need>& needs, const SymbolSink& sink);
/// What a DLL gives, by name and by number; its own name goes to `name`.
Result<void> read_exports(const File& file, std::optional<std::string_view>& name, const SymbolSink& sink);

/// What the image says of its own version, if anything.
Recorded read_version(const File& file);

}  // namespace fibula::pe
