/// Compilers: found, and asked what they make code for, where they search and what they add to a link.
///
///     auto toolchain = fibula::ask({.compiler = "g++", .flags = {"-m32"}});
///     if (toolchain) std::cout << to_string(toolchain->target) << '\n';  // 32-bit x86 elf
#pragma once

#include <fibula/cache.hpp>
#include <fibula/result.hpp>
#include <fibula/target.hpp>

#include <filesystem>
#include <map>
#include <string>
#include <vector>

namespace fibula {

/// How a compiler's options are spelled. `msvc` is the spelling of Microsoft's compiler, which clang-cl shares.
enum class CompilerFamily { gcc, clang, msvc };
FIBULA_API std::string_view to_string(CompilerFamily family);

/// One thing that a compiler answered, and where it was read: {"hard", "macro __ARM_PCS_VFP"}.
struct Answer {
  std::string value;
  std::string from;
  std::string version = {};  ///< of a system: {"macos", …, "11.0"}
};
/// The value, with the version where there is one.
FIBULA_API std::string to_text(const Answer& answer);

/// One thing that a compiler driver hands to the linker by itself, in the order of its command line.
struct LinkStep {
  enum class Kind {
    file,         ///< a start or end file
    library,      ///< -l
    user_inputs,  ///< where the program's own objects and libraries stand
    group_begin,
    group_end,
    as_needed,  ///< shared libraries from here on only when they satisfy a reference
    no_as_needed,
    push_state,
    pop_state,
    only_static,  ///< -l finds archives only, from here on
    any_linkage,
    whole_archive,  ///< every member of the archives from here on, wanted or not
    no_whole_archive,
    default_library,     ///< of MSVC-style linkers: searched behind everything else
    no_default_library,  ///< the same, refused; an empty name refuses all
  };
  Kind kind;
  std::string name = {};  ///< a path, or a library's name without -l
};

/// What a compiler with its flags makes code for, where it searches, and what it adds to a link: asked, never assumed.
struct FIBULA_API Toolchain {
  std::filesystem::path compiler;
  CompilerFamily family = CompilerFamily::gcc;
  bool cxx = true;  ///< it compiles and links C++; false for a C driver
  std::string version;
  std::string triple;
  Target target;
  bool pie = false;          ///< programs are position independent unless flags say otherwise
  bool static_link = false;  ///< the flags ask for a program without shared libraries
  std::filesystem::path sysroot;
  std::filesystem::path linker;
  std::string linker_version;    ///< what it says of itself: "GNU ld (GNU Binutils for Debian) 2.40"
  std::filesystem::path loader;  ///< that programs name (PT_INTERP); empty where there is none
  std::vector<std::filesystem::path> include_directories;
  /// Where a C driver looks for the headers of a C++ source. Empty for a C++ driver, and where it compiles no C++.
  std::vector<std::filesystem::path> cxx_include_directories;
  std::vector<std::filesystem::path> library_directories;
  std::vector<LinkStep> link_steps;
  std::vector<std::string> environment;  ///< variables that change the answers: "LIBRARY_PATH=/opt/lib"

  /// What decides whether binaries fit, by the ids that facts have: `float-abi`, `c-runtime`, `string-abi`, `threads`,
  /// … and `libc`, `cxx` and `os` (versions that are there, where facts have floors), `cpu` (the level that is
  /// guaranteed), `standard` and `newest-standard`. What the compiler does not tell is absent.
  std::map<std::string, Answer, std::less<>> answers;

  const Answer* answer(std::string_view id) const;
  /// Code for a machine without an operating system: no loader, hence no shared libraries.
  bool bare_metal() const;
};

struct Question {
  std::string compiler;
  std::vector<std::string> flags = {};
};

/// Asks one compiler, or takes the answer kept for its identity, flags and environment. At most three runs of it.
/// Errors: missing_tool (no such program), refused (it rejects a flag, hangs, finds no headers in the sysroot that its
/// flags name, or does not answer as a compiler of a known family does).
FIBULA_API Result<Toolchain> ask(const Question& question, const Cache& cache = Cache::standard());

/// Asks several side by side; one answer for each question, in their order.
FIBULA_API std::vector<Result<Toolchain>> ask_all(const std::vector<Question>& questions,
                                                  const Cache& cache = Cache::standard());

/// Compilers of all families in PATH, each real program once, sorted by name: C++ drivers, C drivers without a C++
/// sister, and those with MSVC-style options. Prefixes of cross compilers and suffixes of versions are understood.
FIBULA_API std::vector<std::filesystem::path> find_compilers();

/// Whether a program's name is one that compilers have. Other programs are not to be asked: asking runs them.
FIBULA_API bool is_compiler_name(const std::filesystem::path& program);

}  // namespace fibula
