/// How each family of compilers spells what every compile is told.
#pragma once

#include <fibula/toolchain.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

struct OptionSpelling {
  std::vector<std::string> debug, release;
  std::string standard, definition, include;
  std::string foreign_include;  ///< of a library: warnings inside its headers are not shown
  bool joined = false;          ///< the directory follows a foreign include in the same word
};

const OptionSpelling& options_of(CompilerFamily family);

/// The flags without what stands behind `/link`: that is for the linker, and must come last.
std::vector<std::string> compile_flags(const std::vector<std::string>& flags);
/// `/link` and what stands behind it; nothing where it is not there.
std::vector<std::string> link_flags(const std::vector<std::string>& flags);

/// The flags without link inputs (`-lz`, `libz.a`) and what else is for the linker alone: compilers warn of it.
std::vector<std::string> without_link_inputs(const std::vector<std::string>& flags);
/// The flags without what says the language of sources (`-x c++`): the objects behind it are none.
std::vector<std::string> without_language(const std::vector<std::string>& flags);
/// What a driver is given at a link: the flags without `/link`, without link inputs, which stand among the others, and
/// without the language of sources.
std::vector<std::string> link_time_flags(const std::vector<std::string>& flags);

/// Those of them that change what a driver does at a link: which start files and libraries it adds, which linker it runs
/// (GCC manual, 3.15 and 3.16). For MSVC-style compilers none: what is for the linker stands behind `/link`.
std::vector<std::string> driver_flags(CompilerFamily family, const std::vector<std::string>& flags);

/// A link input among flags: a library's name without -l, or a file.
struct FlagInput {
  std::string word;  ///< "-lz", "lib/libz.a"
  std::string name;  ///< "z"; empty for a file
};
std::vector<FlagInput> link_inputs_in(const std::vector<std::string>& flags);
/// The folders of `-L`, in order.
std::vector<std::filesystem::path> library_folders_in(const std::vector<std::string>& flags);

/// The folders that flags add to where headers are looked for, in order (`-I`, `-isystem`, `-iquote`, `-idirafter`,
/// `/I`).
std::vector<std::filesystem::path> include_folders_in(const std::vector<std::string>& flags);

}  // namespace fibula
