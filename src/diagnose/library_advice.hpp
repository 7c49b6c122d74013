/// How a project comes to a library that is on the shelf.
#pragma once

#include <fibula/explain.hpp>

namespace fibula {

bool is_attached(const Project* project, const std::string& library);

/// Attach it; or, when it is attached, hand its files to the compiler: `response_file` is "compile.rsp" or "link.rsp".
/// `of`: the output whose build by Fibula failed; null where something else builds.
void advise_using(Finding& finding, const std::string& library, const Project* project, std::string_view response_file,
                  const Output* of = nullptr);

}  // namespace fibula
