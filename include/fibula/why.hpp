/// Why something stands in a fit.
#pragma once

#include <fibula/fit.hpp>

namespace fibula {

struct Reason {
  std::string kind;     ///< library, include, define, link, left-out, runtime, need
  std::string subject;  ///< as the compiler or linker is given it
  std::string library;  ///< the attached library that brings it; empty: the project's own, or the system's
  std::string why;
};

/// Everything in a fit that a name means: a library, a directory, a definition, a link input (`libtide.a`, `m`, `-lm`),
/// a run-time file, by its last part or in full. Empty when there is none of that name.
FIBULA_API std::vector<Reason> why(const Fit& fit, const std::string& name);

}  // namespace fibula
