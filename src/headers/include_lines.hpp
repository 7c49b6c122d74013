#pragma once

#include <filesystem>
#include <set>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// One `#include` of a text, wherever its conditionals lead.
struct IncludeLine {
  std::string name;
  bool quoted = false;       ///< "…", not <…>
  unsigned line = 0;         ///< on which it stands, from 1
  bool conditional = false;  ///< inside a `#if` that is not the guard around the whole text
};

/// The name behind `#include` on a line without leading white space; nothing where there is none.
IncludeLine include_line(std::string_view line);

/// Every `#include` of a C or C++ text, comments left out.
std::vector<IncludeLine> include_lines(std::string_view text);

/// What these headers, relative to a root, include, as it is written there.
std::set<std::string> included_names(const std::filesystem::path& root, const std::vector<std::string>& headers);
/// Whether a header's name, as users write it, is one of those, or ends as one of them.
bool is_included(const std::string& header, const std::set<std::string>& included);

}  // namespace fibula
