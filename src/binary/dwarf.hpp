/// DWARF (versions 2 to 5): what the compiler says of itself and of the source in the first unit of a file.
///
/// `.debug_info` is a list of units; each begins with an entry whose attributes are laid out as an abbreviation in
/// `.debug_abbrev` says. Texts are offsets into `.debug_str` or `.debug_line_str`, or indices into
/// `.debug_str_offsets`. In relocatable files with RELA relocations those offsets stand in the relocations.
#pragma once

#include "base/bytes.hpp"
#include "binary/image.hpp"

#include "os/expand.hpp"

#include <deque>
#include <functional>
#include <optional>
#include <string>

namespace fibula::dwarf {

enum class Part { info, string_offsets };

struct Sections {
  Bytes info, abbreviations, strings, line_strings, string_offsets;
  Order order = Order::little;
  /// The value of an offset field, where a relocation holds it; `stored` otherwise.
  std::function<uint64_t(Part part, uint64_t at, uint64_t stored)> relocated = [](Part, uint64_t, uint64_t stored) {
    return stored;
  };
};

/// What sections hold that are compressed in their file.
class Expanded {
 public:
  /// Errors: limit (more than bytes of this number can hold, or more than a gigabyte), malformed, missing_tool.
  Result<Bytes> add(Bytes compressed, uint64_t size, Compression how);

 private:
  std::deque<std::string> texts_;
};

/// The record of the first compile unit that is not the compiler's own start code. Nothing when there is none or it
/// cannot be read: no linker looks at it.
std::optional<DebugRecord> first_unit(const Sections& sections);

}  // namespace fibula::dwarf
