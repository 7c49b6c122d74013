/// Names of libraries that a download lost on its way: packers without links leave them out.
#pragma once

#include "take/source.hpp"

namespace fibula {

/// A name under which programs look for a library, and the file beside it that says so (ELF, DT_SONAME; of a DLL the
/// name in its export directory, where an import library asks for it).
struct LostName {
  std::string name;  ///< relative to the source's root, as the file is
  std::string file;
};

/// Those that no file or link has, and that one file alone asks for.
std::vector<LostName> lost_names(const Source& source);

/// Makes them as links in a folder that is nobody else's. Errors: io.
Result<void> make_lost_names(const std::vector<LostName>& names, const std::filesystem::path& root);

}  // namespace fibula
