/// How a run-time file that is missing comes to its program.
#pragma once

#include <fibula/explain.hpp>

namespace fibula {

/// From the list of a staged folder, the shelf, or the project. `program` may be empty.
void advise_bringing(Finding& finding, const std::string& name, const std::filesystem::path& program,
                     const ExplainContext& context);

}  // namespace fibula
