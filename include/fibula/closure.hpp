/// The run-time files that a program or library needs, found as its loader would find them, without running it.
///
///     auto closure = fibula::closure_of("build/harbourlog");
///     for (const fibula::ClosureEntry& entry : *closure)
///       if (is_bad(entry)) std::cout << entry.name << ": " << entry.why << '\n';
#pragma once

#include <fibula/cache.hpp>
#include <fibula/need.hpp>
#include <fibula/result.hpp>

#include <optional>
#include <string>
#include <vector>

namespace fibula {

enum class NeedStatus {
  found,    ///< where a path recorded in the files leads, or beside a Windows program
  system,   ///< part of the system: where its loader looks by itself, or a DLL of the system's own
  by_luck,  ///< it is there, and what would lead the loader to it depends on who starts the program, and where
  missing,  ///< nowhere
  wrong_architecture,  ///< only for another machine
  lacks_version,       ///< there, without a symbol version that is needed
  lacks_symbol,        ///< there, without a function that is imported by name (Windows)
  unloadable,          ///< the loader stops at what it finds: a folder, a text, a damaged file
};
FIBULA_API std::string_view to_string(NeedStatus status);

struct ClosureEntry {
  std::string name;       ///< as asked for
  std::string path;       ///< empty when it was not found
  std::string needed_by;  ///< the path of the first file that asks for it
  NeedStatus status = NeedStatus::missing;
  std::string why;  ///< how it was found, or what is wrong
  NeedKind kind = NeedKind::ordinary;
  std::vector<std::string> asked_by = {};  ///< every file that asks for it, the first one first
  /// Other files of this name that differ and are not taken: beside the program, or later in the search.
  std::vector<std::string> passed_over = {};
  std::string lacks = {};  ///< the version or symbol, of `lacks_version` and `lacks_symbol`
};

/// Whether the program does not start for it, or stops when it is first used. What is found by luck, and a weak need
/// that nothing serves, are not bad.
FIBULA_API bool is_bad(const ClosureEntry& entry);

/// Which system's loader is meant, and what the program opens by itself.
struct ClosureOptions {
  /// The root of the system on which the program will run, as on this machine; empty: this machine's own. Its loader's
  /// cache and configuration are read there, and absolute run paths are looked for there first.
  std::filesystem::path sysroot = {};
  /// Searched in place of the directories that the system's loader is configured for.
  std::vector<std::filesystem::path> directories = {};
  /// Those of LD_LIBRARY_PATH with which it is started, in order. What is found there is found by luck.
  std::vector<std::filesystem::path> variable_directories = {};
  /// Files that the program opens while it runs. What they need is followed too.
  std::vector<std::filesystem::path> plugins = {};
  Cache cache = Cache::standard();  ///< where closures in which nothing is wrong are kept
};

/// Follows needs to the last one, breadth first; each file once. ELF: ld.so(8) of glibc, and musl's loader; RPATH
/// serves the needs of needs too, RUNPATH the file's own only (gABI chapter 5, "Shared Object Dependencies");
/// `$ORIGIN`,
/// `$LIB`, `$PLATFORM`. Windows: the documented order of the DLL search, with the program's folder first, known DLLs
/// and API sets before it, and what exports forward to. macOS: dyld(1), with `@rpath`, `@loader_path` and
/// `@executable_path`. Of variables only LD_LIBRARY_PATH counts, where it is given. Errors: as `inspect`, for the file
/// itself; refused (a file that needs no run-time files by its nature); absent (no such sysroot).
FIBULA_API Result<std::vector<ClosureEntry>> closure_of(const std::filesystem::path& path,
                                                        const ClosureOptions& options = {});

/// The closure of one file of several.
struct FileClosure {
  std::filesystem::path path;
  std::vector<ClosureEntry> entries = {};
  std::optional<Error> problem = {};  ///< the file could not be read
  bool foreseen = false;              ///< it is not linked yet: these are what its link inputs name
};

/// The closures of files, and of every program and shared library below folders; links are not followed. Each file is
/// looked at once, however many need it. In the order given, folders sorted. Files below folders that need no run-time
/// files by their nature are left out; those named themselves have a problem.
FIBULA_API std::vector<FileClosure> closures_of(const std::vector<std::filesystem::path>& places,
                                                const ClosureOptions& options = {});

}  // namespace fibula
