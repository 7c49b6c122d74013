/// A fit in open forms, so that any build can use it.
#pragma once

#include <fibula/fit.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula::emit {

/// What the compiler is given for a lane, beside the source and `-o`: flags, standard, definitions, include
/// directories.
FIBULA_API std::vector<std::string> compile_arguments(const Fit& fit);

/// What the driver is given behind the objects when it links an output. `run_paths`: where the loader looks, `$ORIGIN`
/// for beside the program.
FIBULA_API std::vector<std::string> link_arguments(const Fit& fit, const OutputLink& link,
                                                   const std::vector<std::string>& run_paths);

/// Arguments as a response file of GCC and Clang: one a line, white space, quotes and back-slashes behind a back-slash
/// (GCC manual, "Overall Options", `@file`).
FIBULA_API std::string response_text(const std::vector<std::string>& arguments);

/// Writes `compile.rsp` and `link.rsp` (and `link-<output>.rsp` for further outputs) into a folder; files whose content
/// is the same are left alone. Errors: io.
FIBULA_API Result<bool> response_files(const Fit& fit, const std::filesystem::path& folder);

/// The fit as JSON, schema fibula.fit/1, with all lanes in one object.
FIBULA_API std::string json(const std::vector<Fit>& fits);

/// Everything of one lane: response files and `fit.json` in its folder. Errors: io.
FIBULA_API Result<bool> lane_files(const Fit& fit);

/// `compile_commands.json` of a project, for editors: every source of every output, as this lane compiles it
/// (JSON Compilation Database, Clang documentation). Errors: io.
FIBULA_API Result<bool> compilation_database(const Project& project, const Fit& fit);

}  // namespace fibula::emit
