/// Values that only a configure step can tell, and without which nothing compiles.
#pragma once

#include "take/sources/code_tree.hpp"

#include <functional>
#include <set>
#include <string>
#include <vector>

namespace fibula {

/// Names that made headers leave without a value, though an ordinary build of these sources or of the tree's headers
/// uses them as one: `typedef TIDE_SIZE_T tide_size;`.
std::set<std::string> values_in_vain(const Source& source, const std::set<std::string>& sources,
                                     const std::vector<SourceHeader>& made);

/// Macros that these sources use as values, that nothing in the tree defines, and that makefiles which a configure step
/// is still to write would hand over.
std::set<std::string> handed_in_vain(const Source& source, const CodeTree& tree, const std::set<std::string>& sources);

/// Whether a source says `#error` for want of a macro that nothing in the tree defines, and the definitions that it
/// would be compiled with do not either: `NAME=VALUE`, asked for where a source says `#error` at all.
bool says_error_in_vain(const Source& source, const CodeTree& tree, const std::set<std::string>& sources,
                        const std::function<std::vector<std::string>()>& definitions);

}  // namespace fibula
