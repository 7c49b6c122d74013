#pragma once

#include "take/sources/made_headers.hpp"

namespace fibula {

/// Of headers that a configure script makes and that have no template, since a tool would make that first: the names
/// that the sources ask for, as GNU Autoheader would find them in the script. By the headers' names, in lower case.
std::map<std::string, HeaderTemplate> templates_by_script(const Source& source, const CodeTree& tree);

}  // namespace fibula
