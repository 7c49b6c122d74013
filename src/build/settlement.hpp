/// A build that left nothing to do, as its record keeps it: what was made, and on what it rests that nothing has to be
/// done again.
#pragma once

#include <fibula/build.hpp>

#include "fit/gathered.hpp"
#include "jobs/record_file.hpp"

#include <optional>

namespace fibula {

/// What is kept of a report, for this project, lane and shelf, this version of Fibula, and this environment. `recipe`:
/// digest of what the cache keeps of what ran; 0: nothing.
std::string settlement_text(const Project& project, const Lane& lane, const Shelf& shelf, const BuildReport& report,
                            uint64_t recipe);
/// Fills a report; false when the text is one for anything else.
bool read_settlement(const std::string& text, const Project& project, const Lane& lane, const Shelf& shelf,
                     BuildReport& report, uint64_t& recipe);

/// Everything that a plan reads and that is no input of a product: the project's files, compilers, cards, folders in
/// which sources are looked for, what lies beside the programs. Nothing where something of it changed after `began`:
/// then it is not known what was read.
std::optional<std::vector<FileState>> premises_of(const Gathered::State& gathered, const Fit& fit, int64_t began);

}  // namespace fibula
