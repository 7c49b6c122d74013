#pragma once

#include "binary/open.hpp"

#include <functional>

namespace fibula {

/// Calls `visit` for every name that a library file gives its users: of an archive what its symbol table lists, of a
/// shared library its default versions, of a linker script what the files that it names give.
void each_defined_name(const OpenFile& file, const std::function<void(std::string_view)>& visit);

/// The files that a linker script names and that are there; those given with -l are looked for in its own folder.
std::vector<std::filesystem::path> script_files(const Script& script, const std::filesystem::path& folder);

}  // namespace fibula
