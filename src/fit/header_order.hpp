#pragma once

#include "choose/selection.hpp"

#include <fibula/fit.hpp>

#include <map>

namespace fibula {

/// The rule `wrong-header-found-first`: a public header that another library's header of the same name hides, since its
/// directory stands earlier. Copies with the same content do no harm.
std::vector<Misfit> hidden_headers(const std::vector<IncludeDirectory>& directories,
                                   const std::map<std::string, Choice>& choices, FileAnswers& files);

}  // namespace fibula
