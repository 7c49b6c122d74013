/// Handing on what was built of libraries that came as source.
#pragma once

#include <fibula/result.hpp>

#include <filesystem>
#include <string>

namespace fibula {

/// From a shelf's folder; gives how many outcomes were handed on. Errors: those of the server, io.
Result<size_t> publish_built(const std::filesystem::path& shelf, const std::string& name, const std::string& version,
                             const std::string& place);

}  // namespace fibula
