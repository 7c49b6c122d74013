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

}  // namespace fibula
