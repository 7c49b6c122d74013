/// The rules that compare one variant with a lane. A rule is a function and a row in the table; it says nothing when
/// all is well.
#pragma once

#include <fibula/fit.hpp>

namespace fibula {

/// What a rule compares.
struct Pairing {
  const Card& card;
  const Variant& variant;
  const LibraryUse& use;
  const Toolchain& toolchain;
  const Lane& lane;
};

/// Every rule's objection, in the order of the table; empty when the variant serves.
std::vector<Misfit> match(const Pairing& pairing);

Verdict worst(const std::vector<Misfit>& misfits);

}  // namespace fibula
