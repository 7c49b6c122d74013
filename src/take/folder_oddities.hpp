/// What a file's place or name says against what is in it.
#pragma once

#include <fibula/folder.hpp>

namespace fibula {

void add_oddities(const FolderBinary& binary, std::vector<Oddity>& odd);
/// Headers without a library, and libraries without headers.
void add_oddities_of_whole(FolderView& view);

/// Says of the binaries of a view which belong together, and what is odd about them.
void relate(FolderView& view);

}  // namespace fibula
