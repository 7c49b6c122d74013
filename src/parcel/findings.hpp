/// What whoever gets a library would stumble over.
#pragma once

#include <fibula/parcel.hpp>

namespace fibula {

/// Of its binaries, by their facts: paths of the builder's machine, a debug run-time in a release build. Reads files.
std::vector<ParcelFinding> binary_findings(const Card& card);

/// Compiles, links and runs a program for each variant for which a compiler of this machine makes code.
void try_variants(const Shelf& shelf, const Card& card, Parcel& parcel);

}  // namespace fibula
