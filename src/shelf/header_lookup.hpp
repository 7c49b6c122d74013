/// Which libraries of a large shelf can have a header, without reading the cards of all others.
#pragma once

#include <fibula/cache.hpp>
#include <fibula/shelf.hpp>

#include <string>
#include <vector>

namespace fibula {

/// Whether reading the cards of a shelf costs less than asking who has something.
bool is_small(const std::vector<ShelfPart>& parts);

/// The libraries to look into for headers that somebody includes: those that have a public header whose last part is
/// that of one of these names, in whatever case its letters are; sorted. On a small shelf, on one without an index, and
/// where nothing can be kept, all that there are. What is kept is brought up to date by the shelf's index: cards that a
/// person changed on a large shelf count from the next `take` on.
std::vector<std::string> libraries_to_ask(const Shelf& shelf, const Cache& cache,
                                          const std::vector<std::string>& included);

}  // namespace fibula
