/// Drafts that turn out to be one, or parts of one.
#pragma once

#include "take/drafts.hpp"

namespace fibula {

/// Whether a library of a draft in the same folder says that the two belong together: whatever each was built with,
/// programs start with both.
bool goes_with(const Draft& draft, const Unit& unit);

/// Whether no program can have a library with those of a draft.
bool is_alternative(const Draft& draft, const Unit& unit);

/// Drafts that a later file ties together are one, whatever each was built with.
void join_linked(std::vector<Draft>& drafts);

/// A draft that only replaces some libraries of another one has the rest of that one too. Where the rest was linked
/// against what is replaced, that cannot be: it is left out, and told.
void complete_alternatives(std::vector<Draft>& drafts, Source& source);

/// A static part that is nothing without the shared one beside it, such as a helper of a DLL, joins its variant.
void join_parts(const Source& source, std::vector<Draft>& drafts);

}  // namespace fibula
