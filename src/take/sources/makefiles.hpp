/// What a tree's own makefiles say, as texts: they are not run.
#pragma once

#include "take/source.hpp"

#include <string>
#include <string_view>

namespace fibula {

/// All of them, one after the other.
std::string text_of_makefiles(const Source& source);

/// Whether a rule of theirs makes a file of that name, in whatever folder: `parse.h: tide.y`.
bool is_made_by(std::string_view makefiles, const std::string& name);

/// Whether they have a compiler include a header of that name into each source: `-include $(top_builddir)/config.h`.
bool is_forced_in(std::string_view makefiles, std::string_view header);

}  // namespace fibula
