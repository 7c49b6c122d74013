/// Facts: what a binary file is, read from its bytes.
///
///     auto facts = fibula::inspect("lib/libtidecalc.a");
///     if (facts && facts->arch.value == fibula::Arch::x86_64) ...
///
/// A file name is never evidence. Each fact carries how sure it is and where it was read; one that could not be read is
/// absent, not guessed.
///
/// Files are mapped while they are read. One that another process cuts short meanwhile raises SIGBUS on POSIX systems,
/// as for every program that maps files: a host program that must survive this reads copies that nobody else writes.
#pragma once

#include <fibula/fact.hpp>
#include <fibula/fact_value.hpp>
#include <fibula/need.hpp>
#include <fibula/pic.hpp>
#include <fibula/result.hpp>
#include <fibula/target.hpp>

#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

enum class Kind { object, static_library, shared_library, import_library, program, plugin, core, script, empty };
FIBULA_API std::string_view to_string(Kind kind);

/// Everything read from one file, from one slice of it, or from one member of an archive.
struct Facts {
  std::string path;  ///< as given; of a member: its name in the archive; of a slice: its architecture
  Fact<Format> format;
  Fact<Arch> arch;
  Fact<int> bits;
  Fact<Endian> endian;
  Fact<Kind> kind;
  Fact<std::string> cpu_floor;      ///< least processor: "x86-64-v3", "v7-A", "avr5"
  Fact<std::string> float_abi;      ///< hard, softfp, soft; single, double; any
  Fact<NamedVersion> os_floor;      ///< least system: linux 3.2.0, windows 6.0, macos 11.0
  Fact<std::string> subsystem;      ///< of a Windows image: console, windows, native, …
  Fact<std::string> c_runtime;      ///< glibc, musl, bionic, newlib, avr-libc, msvcrt, ucrt, msvc-dynamic, …
  Fact<std::string> libc_floor;     ///< highest GLIBC_ version needed, "2.34"
  Fact<std::string> cxx_runtime;    ///< libstdc++, libc++, msvc
  Fact<std::string> cxx_floor;      ///< highest GLIBCXX_ version needed, "3.4.30"
  Fact<std::string> string_abi;     ///< of libstdc++: new, old, both, none
  Fact<std::string> interface;      ///< C, or C++ when it gives mangled names to its users
  Fact<std::string> own_strings;    ///< string ABI in the names that it gives to its users: new, old, both
  Fact<std::string> stl_debug;      ///< on, off, "level 2"
  Fact<std::string> configuration;  ///< debug, release
  Fact<NamedVersion> debug_info;    ///< DWARF 5, CodeView, debug map; other: of a form that is not known
  Fact<std::string> debug_file;     ///< that has the debugging records: a .pdb
  Fact<std::string> language;       ///< C, C++, Fortran, Rust, Go, assembly, mixed
  Fact<NamedVersion> toolset;       ///< gcc, clang, msvc, the assembler, the linker, or what it calls itself
  Fact<LinkTimeCode> link_time;     ///< whose link-time code it holds
  Fact<std::string> exceptions;     ///< table, dwarf, seh, sjlj
  Fact<std::string> threads;        ///< of Windows GNU code: posix, win32
  Fact<std::vector<std::string>> sanitizers;  ///< address, thread, memory, undefined, leak
  Fact<std::vector<std::string>> profile;     ///< gcov, llvm, gprof
  Fact<std::string> openmp;                   ///< libgomp, libomp
  Fact<std::string> fortran;                  ///< gfortran, flang
  Fact<std::string> entry;                    ///< a program's entry that a library brings: main, WinMain, …
  Fact<PicReport> pic;
  Fact<std::string> soname;  ///< or the install name, or the DLL's name; of an import library: the DLL it stands for
  Fact<std::string> file_version;  ///< that a Windows or macOS library says of itself: "2.1.0"
  Fact<std::string> build_id;      ///< hexadecimal
  Fact<std::vector<Need>> needs;
  Fact<std::vector<std::string>> rpath;
  Fact<std::vector<std::string>> runpath;
  Fact<std::vector<std::string>> build_paths;  ///< absolute paths of the builder's machine
  uint64_t defined_count = 0;                  ///< global symbols defined
  uint64_t undefined_count = 0;                ///< symbols needed from elsewhere
  bool mixed = false;                          ///< an archive whose members are for different machines
  std::vector<std::string> notes;              ///< odd, but readable
  std::vector<Facts> slices;                   ///< of a universal file or text stub: one for each architecture
  std::vector<Facts> members;                  ///< of an archive, when asked for
};

/// What to read beside the facts.
struct InspectOptions {
  bool members = false;  ///< facts of each member of an archive
};

/// Reads one file. Errors: absent, unreadable, truncated, malformed, not_a_library, unsupported.
FIBULA_API Result<Facts> inspect(const std::filesystem::path& path, const InspectOptions& options = {});
/// Reads many files, side by side on the machine's cores. One answer for each path, in the order of the paths.
FIBULA_API std::vector<Result<Facts>> inspect_all(const std::vector<std::filesystem::path>& paths,
                                                  const InspectOptions& options = {});

/// A name under which linkers look for libraries: `.a`, `.so`, `.so.1`, `.lib`, `.dll`, `.dylib`, `.tbd`. A hint, never
/// evidence.
FIBULA_API bool has_library_name(const std::filesystem::path& path);

/// One fact: its id, value, certainty and source.
struct FactRow {
  std::string id;
  FactValue value;
  Certainty certainty;
  std::string from;
};
/// Every fact that was read, in the order in which people ask for them.
FIBULA_API std::vector<FactRow> rows(const Facts& facts);

}  // namespace fibula
