/// Which libraries of a large shelf can have a symbol or a file, without reading the cards of all others.
#pragma once

#include "index/name_index.hpp"

namespace fibula {

/// Brings an index to what a place of a shelf has. False where its libraries must be gone through: it is small, has no
/// index, or is on another machine.
bool is_indexed(const Shelf& place, NameIndex& index);

/// The libraries to look into for one of these symbols, or for a file of one of these names; sorted. Where the index
/// cannot tell, all that there are.
std::vector<std::string> libraries_defining(const Shelf& shelf, const Cache& cache,
                                            const std::vector<std::string>& symbols);
std::vector<std::string> libraries_with_file(const Shelf& shelf, const Cache& cache,
                                             const std::vector<std::string>& names);

}  // namespace fibula
