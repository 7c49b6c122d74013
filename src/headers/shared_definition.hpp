/// A definition that stands in a header: every source that includes it makes one of its own.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace fibula {

/// The header that all of these sources include, directly or through others, and that defines a function or data of
/// this name, which has no namespaces and parameters. Headers are looked for beside who includes them and in `folders`.
std::optional<std::filesystem::path> header_that_defines(const std::string& name,
                                                         const std::vector<std::filesystem::path>& sources,
                                                         const std::vector<std::filesystem::path>& folders);

}  // namespace fibula
