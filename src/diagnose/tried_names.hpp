/// The names of a library that a trial links: what its headers declare and its binaries have.
#pragma once

#include <fibula/card.hpp>

#include <set>
#include <string>
#include <vector>

namespace fibula {

/// By the names in the binaries.
struct TriedNames {
  std::set<std::string> symbols;
  std::string version;  ///< a C function that takes nothing and gives a text
};

bool is_cxx_library(const Card& card, const Variant* variant);

/// `functions` are those that somebody asks for; none: all that the public headers declare. `prefix` stands before C
/// names in the objects.
TriedNames names_to_try(const Card& card, const Variant* variant, const std::vector<std::string>& functions,
                        const std::string& prefix);

}  // namespace fibula
