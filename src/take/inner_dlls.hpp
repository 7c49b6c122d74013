/// DLLs that are there for other DLLs of a download.
#pragma once

#include "take/drafts.hpp"

#include <map>

namespace fibula {

/// A DLL without an import library, of which the headers declare nothing, and that another DLL beside it imports or
/// names: it goes where that one goes, whatever it was built with, since no link takes it.
struct InnerDll {
  const Unit* user = nullptr;  ///< the library at the end of the chain, which is none of them
  bool imported = false;       ///< false: it is opened by name
};
std::map<const Unit*, InnerDll> inner_dlls(const Source& source, const Units& units);

/// Puts them into the variants of those that use them.
void place_inner_dlls(const std::map<const Unit*, InnerDll>& inner, std::vector<Draft>& drafts);

}  // namespace fibula
