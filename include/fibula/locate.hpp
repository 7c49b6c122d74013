/// Who defines, needs or declares a name: over the shelf, the system's libraries and folders that are given.
///
///     auto hits = fibula::locate("tide_height", {.shelf = *fibula::Shelf::standard()});
///     for (const fibula::Hit& hit : *hits) std::cout << hit.path << '\n';
#pragma once

#include <fibula/cache.hpp>
#include <fibula/shelf.hpp>
#include <fibula/toolchain.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

enum class HitRole {
  defines,   ///< the file or member has it, for its users
  needs,     ///< it asks others for it
  declares,  ///< a header declares it, or is the header or file of that name
};
FIBULA_API std::string_view to_string(HitRole role);

struct Hit {
  std::filesystem::path path;
  std::string member = {};   ///< of an archive
  std::string library = {};  ///< on the shelf; empty: of the system, or of a folder that was given
  HitRole role = HitRole::defines;
  std::string name;  ///< as the file has it
};

struct LocateContext {
  const Shelf& shelf;
  const Toolchain* toolchain = nullptr;  ///< whose folders are the system's; null: none are looked into
  std::vector<std::filesystem::path> folders = {};
  size_t most = 1000;  ///< hits
  Cache cache = Cache::standard();
};

/// `name`: a symbol as it is in files, a C++ name as it is read (`harbour::tide`, with or without parameters), a
/// header's or library's file name; `*` and `?` stand for what is not known. Definitions first, the shelf's before
/// others. The index is kept in the cache, and brought up to date for folders in which files came or went; a file that
/// was rewritten in its place is read again when it is met. Errors: usage (an empty name), absent (a folder that
/// is not there), missing_tool (no SQLite),
/// io.
FIBULA_API Result<std::vector<Hit>> locate(const std::string& name, const LocateContext& context);

}  // namespace fibula
