/// Libraries that are there for other libraries of a download.
#pragma once

#include "take/drafts.hpp"

#include <map>

namespace fibula {

/// A library that goes where another one goes, whatever it was built with, since no link takes it: a plugin by its
/// format; a DLL without an import library, or one of several builds that offer the same, of which the headers declare
/// nothing and that a library beside it names or imports. Those that stand `apart` are none, and use none.
struct InnerLibrary {
  const Unit* user = nullptr;  ///< the library at the end of the chain, which is none of them
  bool imported = false;       ///< false: it is opened by name
};
std::map<const Unit*, InnerLibrary> inner_libraries(const Source& source, const Units& units,
                                                    const std::map<const Unit*, std::string>& apart);

/// Puts them into the variants of those that use them.
void place_inner_libraries(const std::map<const Unit*, InnerLibrary>& inner, std::vector<Draft>& drafts);

}  // namespace fibula
