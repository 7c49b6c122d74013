/// What a library's own build would hand to the compiler.
#pragma once

#include "making/makefile_definitions.hpp"
#include "take/sources/code_tree.hpp"

#include <map>

namespace fibula {

/// The definitions for these sources, each macro once; what is not plain from the texts is told in the source's
/// remarks. `handed`: by makefiles. `without`: macros that leave out what is not here, with the header of each.
/// `configured`: a header is made that says what there is.
std::vector<std::string> definitions_for(Source& source, const CodeTree& tree, const std::set<std::string>& sources,
                                         const std::vector<HandedDefinition>& handed,
                                         const std::map<std::string, std::string>& without, bool configured);

}  // namespace fibula
