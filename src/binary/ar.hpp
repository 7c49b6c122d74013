/// ar archives (ar(5)): the static libraries of every system.
///
/// After the magic line come members, each behind a header of 60 bytes of text, at even offsets. Three families fill
/// this in differently. GNU keeps long names in a member `//`, refers to them as `/123`, and puts the symbol table into
/// a member `/` (or `/SYM64/`, with 64-bit offsets). BSD puts long names before the data (`#1/20`) and the table into
/// `__.SYMDEF`. COFF librarians write two tables, both named `/`, the second in little-endian order and sorted. A thin
/// archive (`!<thin>`) holds only headers; its members are files beside it.
#pragma once

#include "base/bytes.hpp"

#include <functional>
#include <string_view>
#include <vector>

namespace fibula {

enum class ArFlavour { gnu, bsd, coff };

struct ArMember {
  std::string_view name;
  Bytes data;           ///< empty in a thin archive
  uint64_t header = 0;  ///< offset of its header
  uint64_t size = 0;
};

struct ArIndexEntry {
  std::string_view symbol;
  uint32_t member = 0;  ///< position in Archive::members
};

struct Archive {
  ArFlavour flavour = ArFlavour::gnu;
  bool thin = false;
  bool has_index = false;
  std::vector<ArMember> members;    ///< without tables
  std::vector<ArIndexEntry> index;  ///< in the file's order
};

bool is_archive(Bytes bytes);
/// Headers and symbol table; no member is looked into. Errors: truncated, malformed.
Result<Archive> read_archive(Bytes bytes);
/// The same with an empty index, for those who read every member themselves.
Result<Archive> read_members(Bytes bytes);

/// Only the symbol table: each name with the offset of its member's header, which is not looked at. Gives their number.
/// Errors: truncated, malformed.
Result<uint64_t> walk_archive_index(Bytes bytes, const std::function<void(std::string_view, uint64_t)>& visit);

}  // namespace fibula
