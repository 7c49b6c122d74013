/// Which libraries of a large shelf can have a symbol or a file, without reading the cards of all others.
#pragma once

#include "index/name_index.hpp"

namespace fibula {

/// The parts of a place that an index of names is kept of; nothing where its libraries must be gone through: it is
/// small, has no index, or is on another machine.
std::optional<std::vector<ShelfPart>> parts_to_index(const Shelf& place);

/// The libraries to look into for one of these symbols, or for a file of one of these names; sorted. Where the index
/// cannot tell, all that there are.
std::vector<std::string> libraries_defining(const Shelf& shelf, const Cache& cache,
                                            const std::vector<std::string>& symbols);
std::vector<std::string> libraries_with_file(const Shelf& shelf, const Cache& cache,
                                             const std::vector<std::string>& names);

}  // namespace fibula
