#pragma once

#include <fibula/report.hpp>

namespace fibula {

/// Draws who needs whom with Graphviz' `dot`, as SVG for a page: sizes by the page, colours by its style. Errors:
/// missing_tool (it is not installed, or does not end).
Result<std::string> draw(const std::vector<NeedEdge>& edges, const std::vector<std::string>& outputs);

}  // namespace fibula
