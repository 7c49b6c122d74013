/// Files that a library's code reads while it runs, known by its texts.
#pragma once

#include "take/source.hpp"

namespace fibula {

/// What lies in the download, is nothing that builds take, and is named in the bytes of its libraries, joins its data:
/// files by their names (`north.dat`), folders as a path begins with them (`tides/`, `../tides/`, `%s/tides/`).
void find_data(Source& source);

}  // namespace fibula
