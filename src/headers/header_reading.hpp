/// What a lane's compiler makes of a library's headers, beside what its binaries define.
#pragma once

#include "headers/declarations.hpp"

#include <fibula/cache.hpp>
#include <fibula/toolchain.hpp>

#include <cstddef>
#include <filesystem>
#include <map>
#include <string>
#include <vector>

namespace fibula {

/// How the binaries have a function that the headers declare.
enum class HowDefined {
  as_declared,
  plainly,    ///< under its C name, though the headers declare it in C++
  mangled,    ///< under a C++ name, though the headers declare it inside extern "C"
  decorated,  ///< with a calling convention that the headers do not declare
  nowhere,
};

struct UnmatchedFunction {
  DeclaredFunction function;
  HowDefined how = HowDefined::nowhere;
};

/// Of one library in one lane.
struct HeaderReading {
  size_t c_functions = 0;                         ///< declared inside extern "C", or in C
  size_t cxx_functions = 0;                       ///< declared in C++
  std::vector<UnmatchedFunction> unmatched = {};  ///< of these, what no binary defines as it is declared
  bool read_as_cxx = true;                        ///< by the lane's C++ compiler; else by its C compiler
  bool included_as_cxx = false;                   ///< a C++ file of the project includes them outside of extern "C"
  std::string standard = {};                      ///< that the lane compiles with: the project's, or the compiler's own
  std::string needs_standard = {};  ///< the least that the headers compile with, where that one does not do; else empty
  std::string complaint = {};       ///< why they do not compile with it; empty where they do
};

/// How a lane reads headers.
struct HeaderLane {
  const Toolchain& toolchain;
  bool cxx = true;  ///< the project includes them in C++
  std::vector<std::string> flags;
  std::vector<std::string> definitions;
  std::vector<std::filesystem::path> include_directories;
  std::string standard;  ///< the project's; empty: the compiler's own
  /// Include directories that are not made yet, and the folders that have the same headers meanwhile.
  std::map<std::filesystem::path, std::filesystem::path> stand_ins = {};
};

/// The headers of one library.
struct LibraryHeaders {
  std::string identity;                         ///< changes when headers or binaries do
  std::filesystem::path root;                   ///< of the library's files
  std::vector<std::string> names;               ///< that users include, as they write them
  std::vector<std::filesystem::path> files;     ///< whose declarations count
  std::vector<std::filesystem::path> binaries;  ///< that should define them; none: nothing is compared
  Target target;                                ///< of the binaries
  bool included_as_cxx = false;
};

/// What is read of each library, in their order. Compilers run side by side, two runs a library when all is well, each
/// for a minute at most; what was read is kept until the compiler, the library or the settings change. Where a compiler
/// cannot be run, nothing is read.
std::vector<HeaderReading> read_headers(const HeaderLane& lane, const std::vector<LibraryHeaders>& libraries,
                                        const Cache& cache);

}  // namespace fibula
