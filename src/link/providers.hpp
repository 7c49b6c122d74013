/// Who defines a name that is missing.
#pragma once

#include "index/provider_index.hpp"
#include "link/link_file.hpp"

#include <fibula/shelf.hpp>
#include <fibula/toolchain.hpp>

#include <map>
#include <set>

namespace fibula {

/// Whether a library file, or a file that a linker script in its place names, defines a symbol for its users.
Result<bool> defines(FileStore& files, const std::filesystem::path& path, std::string_view symbol);

/// Whether a library, without `lib` and ending, is one that a system's C library keeps apart: math, threads, and so on.
bool is_companion_of_c_library(std::string_view stem);

/// Whether a scanner or parser has a name for itself: many libraries have one inside, and it is nobody else's. Only
/// libraries that are made for scanners are asked for such a name (POSIX.1-2017, lex and yacc: `-l l`, `-l y`).
bool is_of_scanners(std::string_view name);
/// What is to be added where no library is said to define such a name; empty for other names.
std::string_view but_inside(std::string_view name);

/// A file in the lane's search directories, or on the shelf, that defines a name.
struct Provider {
  std::filesystem::path path;
  std::string library;  ///< its name on the shelf; empty for a file of the system
};

/// The command that makes a project use what defines the name: for a file of the system, it is taken in place first.
std::string attach_command(const Provider& provider);

/// For each of these names the first provider: the shelf's libraries for the lane's target, then every library in the
/// search directories.
std::map<std::string, Provider> find_providers(FileStore& files, ProviderStore& providers,
                                               const std::set<std::string>& symbols, const Toolchain& toolchain,
                                               const Shelf& shelf);

}  // namespace fibula
