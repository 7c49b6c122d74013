/// Macros by which a library's own sources know that they are being compiled.
#pragma once

#include "take/sources/code_tree.hpp"

namespace fibula {

/// Definitions that a build hands over by itself where no header has them: `PACKAGE_VERSION="@version@"`, with the
/// placeholders of a made header. `root`: of the tree, whose configure script may hand over more.
std::vector<std::string> definitions_of_own_build(const CodeTree& tree, const std::set<std::string>& sources,
                                                  const std::string& library, const std::filesystem::path& root);

/// `HAVE_STDLIB_H`: macros by which these sources and the tree's headers ask for a header that C has in any case.
std::vector<std::string> macros_of_c_headers(const Source& source, const CodeTree& tree,
                                             const std::set<std::string>& sources);

/// `TIDE_LIB`, `BUILDING_TIDE`: macros that these sources and the tree's headers test, or without which a source says
/// `#error`, and that only the library's own build would define. None of those that export symbols. `library`: its
/// name.
std::vector<std::string> macros_of_own_build(const Source& source, const CodeTree& tree,
                                             const std::set<std::string>& sources, const std::string& library);

}  // namespace fibula
