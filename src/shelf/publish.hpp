/// Handing on what was built of libraries that came as source.
#pragma once

#include <fibula/result.hpp>

#include <filesystem>
#include <string>

namespace fibula {

/// As `Shelf::publish`, from a shelf's folder.
Result<size_t> publish_built(const std::filesystem::path& shelf, const std::string& name, const std::string& version,
                             const std::string& place);

}  // namespace fibula
