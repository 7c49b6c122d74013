/// What a reader gives: one object file, program or shared library, in words that no format owns.
///
/// Names are borrowed from the mapped file, since a symbol table of millions of names must not be copied; whoever keeps
/// an Image keeps its file.
#pragma once

#include "base/bytes.hpp"

#include <fibula/facts.hpp>
#include <fibula/target.hpp>

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// The parts of a file that a question needs; nothing else of it is touched.
enum Want : unsigned {
  want_symbols = 1,      ///< symbol tables
  want_dynamic = 2,      ///< what the loader reads: needs, soname, search paths, versions
  want_notes = 4,        ///< build id, system, producer
  want_relocations = 8,  ///< whether the code is position independent
  want_all = 15,
};

struct ImageSymbol {
  std::string_view name;
  std::string_view version = {};  ///< of a dynamic symbol
  uint64_t value = 0;
  uint64_t size = 0;
  uint32_t index = 0;    ///< in its table
  uint32_t section = 0;  ///< where it is defined
  int32_t group = -1;    ///< index into Image::groups when it is defined in a COMDAT group
  Binding binding = Binding::global;
  Visibility visibility = Visibility::normal;
  SymbolKind kind = SymbolKind::none;
  bool defined = false;
  bool common = false;          ///< a tentative definition (C), merged by the linker
  bool default_version = true;  ///< binds references that name no version
};

struct ImageSection {
  std::string_view name;
  uint64_t size = 0;
  bool loaded = false;  ///< takes room in memory
};

enum class ImageType { object, program, pie_program, shared, core, other };

struct Image {
  Target target;
  uint32_t machine = 0;  ///< the format's own number, for messages about unknown ones
  uint32_t flags = 0;
  ImageType type = ImageType::other;
  std::vector<ImageSection> sections;
  std::vector<std::string_view> groups;      ///< signatures of COMDAT groups
  std::vector<ImageSymbol> symbols;          ///< the linker's table
  std::vector<ImageSymbol> dynamic_symbols;  ///< the loader's table

  std::optional<std::string_view> interpreter;
  std::optional<std::string_view> soname;
  std::vector<Need> needs;
  std::vector<std::string> rpath;
  std::vector<std::string> runpath;
  std::vector<std::string_view> defined_versions;

  std::string build_id;                     ///< hexadecimal
  std::vector<std::string_view> producers;  ///< what compilers left of themselves
  std::string system;                       ///< "linux 3.2.0", where a note says it
  std::optional<PicReport> pic;             ///< absent: not asked, or this architecture's relocations are not known
};

}  // namespace fibula
