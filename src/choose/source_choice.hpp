/// Libraries of a set that come as source: planned, and used as built where their outcome is kept already.
#pragma once

#include "choose/library_set.hpp"
#include "choose/source_plan.hpp"

namespace fibula {

/// Completes the choices that come as source: with the variant that was built for this lane and these settings, or with
/// one that is promised. `own_store`: the project's folder for what is built there for this lane. What cannot be built
/// as asked is a misfit of the choice. Errors: those of `plan_source`; a served shelf's.
Result<void> settle_sources(LibrarySet& set, const Chooser& chooser, const std::filesystem::path& own_store);

/// Where the outcome of a plan is kept: on a shelf, or in the project for what lies open to changes.
Result<std::optional<Card>> find_built(const SourcePlan& plan, const Shelf& shelf,
                                       const std::filesystem::path& own_store);

}  // namespace fibula
