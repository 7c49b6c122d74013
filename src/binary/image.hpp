/// What a reader gives: one object file, program or shared library, in words that no format owns.
///
/// Names are borrowed from the mapped file, since a symbol table of millions of names must not be copied; whoever keeps
/// an Image keeps its file.
#pragma once

#include "base/bytes.hpp"

#include <fibula/need.hpp>
#include <fibula/pic.hpp>
#include <fibula/symbols.hpp>
#include <fibula/target.hpp>

#include <cstdint>
#include <deque>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// The parts of a file that a question needs; nothing else of it is touched.
enum Want : unsigned {
  want_symbols = 1,       ///< symbol tables
  want_dynamic = 2,       ///< what the loader reads: needs, soname, search paths, versions
  want_notes = 4,         ///< build id, system, producer, processor attributes, directives to the linker
  want_relocations = 8,   ///< whether the code is position independent
  want_sections = 16,     ///< names and sizes of sections
  want_debug = 32,        ///< what the compiler recorded for debuggers, in its first unit
  want_facts = 47,        ///< all that facts are made of: sections are not
  want_groups = 64,       ///< COMDAT groups of ELF objects, which only a link asks for
  want_directives = 128,  ///< options that COFF objects hold for the linker, without the other notes
  want_all = 255,
  want_locals = 256,  ///< with the names that an ELF file keeps to itself, which no link and no loader asks for
};

struct ImageSymbol {
  std::string_view name;
  std::string_view version = {};  ///< of a dynamic symbol
  std::string_view library = {};  ///< the run-time file that an import names
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

/// Takes symbols one at a time; the symbol and its name are lent for the call.
using SymbolSink = std::function<void(const ImageSymbol&)>;

struct ImageSection {
  std::string_view name;
  uint64_t size = 0;
  bool loaded = false;  ///< takes room in memory
};

enum class ImageType {
  object,
  import_member,  ///< stands for one symbol of a DLL
  program,
  pie_program,
  shared,
  plugin,  ///< loaded by name at run time, not linked
  core,
  stub,  ///< text that stands for a shared library
  other,
};

/// Link-time objects: what the compiler left for a compiler of the same kind.
struct LinkTimeMark {
  enum class Maker { gcc, llvm, msvc } maker = Maker::gcc;
  std::string version;        ///< of the format or the compiler, as far as recorded
  bool machine_code = false;  ///< ordinary machine code is there too
};

/// What a compiler recorded for debuggers (DWARF version 5, section 3.1.1), or the linker in a debug record.
struct DebugRecord {
  std::string_view producer;  ///< "GNU C17 12.2.0 -O2 -g"
  std::string_view folder;    ///< where it was compiled
  std::string_view source;
  std::string_view file;  ///< a debug file elsewhere
  uint16_t language = 0;  ///< DW_LANG_ number
  uint16_t version = 0;   ///< of DWARF
  bool optimised = false;
};

/// A value with the name of the field it was read from.
/// A system's name and its least version, with where they stand.
struct RecordedSystem {
  std::string name;
  std::string version;
  std::string from;
};

struct Recorded {
  std::string value;
  std::string from;

  explicit operator bool() const { return !value.empty(); }
};

struct Image {
  Target target;
  uint32_t machine = 0;  ///< the format's own number, for messages about unknown ones
  uint32_t flags = 0;
  ImageType type = ImageType::other;
  std::vector<ImageSection> sections;
  std::vector<std::string_view> groups;      ///< signatures of COMDAT groups
  std::vector<ImageSymbol> symbols;          ///< the linker's table
  std::vector<ImageSymbol> dynamic_symbols;  ///< the loader's table

  /// Names that the format implies and does not spell; symbols may point into them.
  std::shared_ptr<const std::deque<std::string>> made_names;

  std::optional<std::string_view> interpreter;
  std::optional<std::string_view> soname;  ///< or the install name, or the DLL's name
  std::vector<Need> needs;
  std::vector<std::string> rpath;
  std::vector<std::string> runpath;
  std::vector<std::string_view> defined_versions;
  bool odd_notes = false;        ///< a section of notes has not their form
  bool sections_differ = false;  ///< what the section headers call dynamic is not what the loader reads
  bool debug_entry = false;      ///< DT_DEBUG, where a loader leaves word for debuggers
  bool only_run_paths = false;   ///< the loader's own directories are not searched for what it needs (DF_1_NODEFLIB)

  std::string build_id;                       ///< hexadecimal
  std::vector<std::string_view> producers;    ///< what compilers left of themselves
  std::vector<std::string_view> directives;   ///< to the linker, one option each (COFF .drectve)
  std::vector<std::string_view> debug_files;  ///< objects that the debug map names
  RecordedSystem system;                      ///< the least that it runs on
  Recorded cpu_floor;
  Recorded float_abi;
  Recorded version;          ///< of the library itself, where the format has a field for it
  Recorded linker;           ///< version of the linker that made it
  uint32_t compiler_id = 0;  ///< of Microsoft's compilers: tool and build
  std::string subsystem;     ///< of a Windows program: "console", "windows"
  bool encrypted = false;    ///< code can be read by the system's loader only
  bool debug_info = false;   ///< sections for debuggers are there
  std::optional<DebugRecord> debug;
  std::optional<LinkTimeMark> link_time;
  std::optional<PicReport> pic;  ///< absent: not asked, or this architecture's relocations are not known
};

}  // namespace fibula
