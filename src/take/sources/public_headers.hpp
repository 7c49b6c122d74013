/// Which headers of a source tree its users include.
#pragma once

#include "take/source.hpp"

namespace fibula {

/// Headers in folders of programs are theirs: taken from the source's headers, if others stay.
void leave_out_program_headers(Source& source);

/// A header for which a template lies in another folder was written for one system: it is kept, and not taken for the
/// users' own.
void leave_out_one_systems_headers(Source& source);

/// Of directories that are not made for users, the headers directly in them, those in a folder with the library's name
/// (`tide/part.h`), and what these include: what else lies below is the library's own. To be called when the directories
/// are known.
void narrow_headers(Source& source, const std::string& name);

/// Headers of one library have their first folder in common: `knot` for `knot/tie.h`.
std::string owner_of_header(const std::string& name);

/// Public headers that need what is not here are extras like sources that do, if they are few: whether that is so, and
/// they are left out.
bool leave_out_headers_of(Source& source, const std::string& owner);

}  // namespace fibula
