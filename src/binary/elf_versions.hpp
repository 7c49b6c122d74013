/// Symbol versions (LSB Core, "Symbol Versioning"): which versions a file defines, which it needs from others, and
/// which each of its dynamic symbols has.
#pragma once

#include "binary/elf.hpp"

namespace fibula::elf {

/// A table of version records with the string table its names are in.
struct Versions {
  Bytes bytes;
  Bytes names;
  uint64_t count = 0;
};

/// By version index, from both tables; empty where none has it.
using VersionNames = std::vector<std::string_view>;

/// What is needed also goes to the image's needs. Errors: truncated, malformed, limit.
Result<void> read_needed_versions(const File& file, const Versions& versions, Image& image, VersionNames& names);
Result<void> read_defined_versions(const File& file, const Versions& versions, Image& image, VersionNames& names);

/// The version of each dynamic symbol, as the table beside them says; index 0 is local, 1 has no version.
class VersionTable {
 public:
  VersionTable(const Table& version_of, VersionNames names);
  /// Sets the version of a symbol, and whether it is local or binds references that name none.
  void apply(ImageSymbol& symbol) const;

 private:
  Table version_of_;
  VersionNames names_;
};

}  // namespace fibula::elf
