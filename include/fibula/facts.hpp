/// Facts: what a binary file is, read from its bytes.
///
///     auto facts = fibula::inspect("lib/libtidecalc.a");
///     if (facts && facts->arch.value == fibula::Arch::x86_64) ...
///
/// A file name is never evidence. Each fact carries how sure it is and where it was read; one that could not be read is
/// absent, not guessed.
#pragma once

#include <fibula/result.hpp>
#include <fibula/target.hpp>

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// How a fact was learnt.
enum class Certainty {
  read,     ///< from a field that says exactly this
  derived,  ///< from several fields together
  guessed,  ///< from a name
};
FIBULA_API std::string_view to_string(Certainty certainty);

/// A value that may be unknown, with how it was learnt.
template <class T>
struct Fact {
  std::optional<T> value = {};
  Certainty certainty = Certainty::read;
  std::string from = {};  ///< "ELF header, e_machine"

  explicit operator bool() const { return value.has_value(); }
};

enum class Kind { object, static_library, shared_library, import_library, program, plugin, core, script, empty };
FIBULA_API std::string_view to_string(Kind kind);

enum class Binding { local, global, weak, unique };
enum class Visibility { normal, protected_, hidden, internal };
enum class SymbolKind { none, function, data, thread_local_, indirect, section, file };
FIBULA_API std::string_view to_string(Binding binding);
FIBULA_API std::string_view to_string(Visibility visibility);
FIBULA_API std::string_view to_string(SymbolKind kind);

/// A run-time file asked for by name.
struct Need {
  std::string name;
  std::vector<std::string> versions = {};  ///< symbol versions it must define
};

/// Whether code can be loaded at any address, and what says that it cannot.
struct PicReport {
  bool independent = true;
  std::string relocation = {};  ///< the first offending relocation's name
  std::string section = {};
  uint64_t offset = 0;
  std::string symbol = {};
};

struct Symbol {
  std::string name;
  bool defines = false;  ///< false: it is needed
  Binding binding = Binding::global;
  Visibility visibility = Visibility::normal;
  SymbolKind kind = SymbolKind::none;
  uint64_t size = 0;
  std::string version = {};
  std::string member = {};  ///< of an archive
};

/// Everything read from one file, or from one member of an archive.
struct Facts {
  std::string path;  ///< as given; of a member: its name in the archive
  Fact<Format> format;
  Fact<Arch> arch;
  Fact<int> bits;
  Fact<Endian> endian;
  Fact<Kind> kind;
  Fact<std::string> os_floor;     ///< least system
  Fact<std::string> c_runtime;    ///< glibc, musl, …
  Fact<std::string> libc_floor;   ///< highest GLIBC_ version needed, "2.34"
  Fact<std::string> cxx_runtime;  ///< libstdc++, libc++
  Fact<std::string> cxx_floor;    ///< highest GLIBCXX_ version needed, "3.4.30"
  Fact<std::string> language;     ///< C, C++, …
  Fact<std::string> toolset;      ///< producer records
  Fact<PicReport> pic;
  Fact<std::string> soname;
  Fact<std::string> build_id;  ///< hexadecimal
  Fact<std::vector<Need>> needs;
  Fact<std::vector<std::string>> rpath;
  Fact<std::vector<std::string>> runpath;
  uint64_t defined_count = 0;      ///< global symbols defined
  uint64_t undefined_count = 0;    ///< symbols needed from elsewhere
  bool mixed = false;              ///< an archive whose members are for different machines
  std::vector<std::string> notes;  ///< odd, but readable
  std::vector<Facts> members;      ///< of an archive, when asked for
};

/// What to read beside the facts.
struct InspectOptions {
  bool members = false;  ///< facts of each member of an archive
};

/// Reads one file. Errors: absent, unreadable, truncated, malformed, not_a_library, unsupported.
FIBULA_API Result<Facts> inspect(const std::filesystem::path& path, const InspectOptions& options = {});

/// Every global symbol that a file defines or needs, in the file's order. Errors: as `inspect`.
FIBULA_API Result<std::vector<Symbol>> symbols_of(const std::filesystem::path& path);

/// A name under which linkers look for libraries: `.a`, `.so`, `.so.1`, `.lib`, `.dll`, `.dylib`, `.tbd`. A hint, never
/// evidence.
FIBULA_API bool has_library_name(const std::filesystem::path& path);

/// A C++ name as people write it (Itanium C++ ABI, section 5.1), or the name itself when it is not mangled.
FIBULA_API std::string readable_name(std::string_view symbol);

/// One fact as text: its id, value, certainty and source. For printing and for JSON.
struct FactRow {
  std::string id;
  std::string value;
  Certainty certainty;
  std::string from;
};
FIBULA_API std::vector<FactRow> rows(const Facts& facts);

}  // namespace fibula
