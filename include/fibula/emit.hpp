/// A fit in open forms, so that any build can use it.
#pragma once

#include <fibula/fit.hpp>

#include <filesystem>
#include <span>
#include <string>
#include <vector>

namespace fibula::emit {

/// What the compiler is given for sources of an output, or of the first one, beside the source and `-o`: flags,
/// standard, definitions, include directories.
FIBULA_API std::vector<std::string> compile_arguments(const Fit& fit, const std::string& output = {});

/// What the driver is given when it compiles assembly of an output, or of the first one: flags, definitions, include
/// directories.
FIBULA_API std::vector<std::string> assemble_arguments(const Fit& fit, const std::string& output = {});

/// What the driver is given behind the objects when it links an output. `run_paths`: where the loader looks, `$ORIGIN`
/// for beside the program.
FIBULA_API std::vector<std::string> link_arguments(const Fit& fit, const OutputLink& link,
                                                   const std::vector<std::string>& run_paths);

/// Arguments as a response file of GCC and Clang: one a line, white space, quotes and back-slashes behind a back-slash
/// (GCC manual, "Overall Options", `@file`); for MSVC-style compilers as Windows quotes words, and what is for the
/// linker on one line.
FIBULA_API std::string response_text(const std::vector<std::string>& arguments,
                                     CompilerFamily family = CompilerFamily::gcc);

/// Variables for make: `FIT_COMPILER`, `FIT_RUNTIME`, and `FIT_COMPILE`, `FIT_ASSEMBLE`, `FIT_LINK` of the first output
/// and with `_<output>` behind them of each, every one a list of words for the shell (POSIX.1-2017, make).
FIBULA_API std::string make_text(const Fit& fit);
/// The same variables for a POSIX shell, to be used with `eval`.
FIBULA_API std::string shell_text(const Fit& fit);
/// The run-time files, one path a line.
FIBULA_API std::string runtime_text(const Fit& fit);
/// Writes `fit.mk`, `fit.env` and `runtime.txt` into a folder. Errors: io.
FIBULA_API Result<void> build_files(const Fit& fit, const std::filesystem::path& folder);

/// Writes `compile-<output>.rsp`, `assemble-<output>.rsp` and `link-<output>.rsp` for each output, and those of the
/// first one as `compile.rsp`, `assemble.rsp`, `link.rsp` too, into a folder; files whose content is the same are left
/// alone. Errors: io.
FIBULA_API Result<void> response_files(const Fit& fit, const std::filesystem::path& folder);

/// The fit as JSON, schema fibula.fit/1, with all lanes in one object.
FIBULA_API std::string json(std::span<const Fit> fits);

/// The same misfit as it is said of several lanes: "each lane needs …" for "lane desk-debug needs …", and without the
/// places in objects.
FIBULA_API Misfit said_of_each(Misfit misfit, const std::string& lane);

/// What the fits object to, as SARIF 2.1.0, each thing once for all lanes, with the line of `fibula.toml` or of the
/// source that it is about.
FIBULA_API std::string sarif(const Project& project, const std::vector<Fit>& fits);
/// The same a line each, as editors jump by them: "fibula.toml:12: error: architecture: …".
FIBULA_API std::vector<std::string> lines(const Project& project, const std::vector<Fit>& fits);

/// Writes a text into a file whole or not at all; the folder must be there. Errors: io.
FIBULA_API Result<void> write_text(const std::filesystem::path& file, const std::string& text);

/// Brings the folders that hold headers of several libraries to what the fit says; a compile needs them. Errors: io.
FIBULA_API Result<void> shared_headers(const Fit& fit);

/// Everything of one lane in its folder: shared headers, response files, variables for make and shells, run-time files,
/// and `fit.json`. Errors: io.
FIBULA_API Result<void> lane_files(const Fit& fit);
/// The same for several lanes, written side by side; those that do not fit get none. Errors: io, the first one.
FIBULA_API Result<void> lane_files(const std::vector<Fit>& fits);

/// The bill of materials of a program (or whatever `name` is) in a lane, as SPDX 2.3 and as CycloneDX 1.5, both JSON.
/// The same choice gives the same text.
FIBULA_API std::string spdx(const Fit& fit, const std::string& name);
FIBULA_API std::string cyclonedx(const Fit& fit, const std::string& name);
/// The same of one library of a shelf, with the libraries that it requires. The time is what SOURCE_DATE_EPOCH says, or
/// the beginning of 1970.
FIBULA_API std::string spdx(const Card& card, const std::vector<Card>& required);
FIBULA_API std::string cyclonedx(const Card& card, const std::vector<Card>& required);
/// Writes both into the lane's folder: `materials.spdx.json`, `materials.cdx.json`. Errors: io.
FIBULA_API Result<void> materials(const Fit& fit, const std::string& name);

/// `compile_commands.json` of a project, for editors: every source of every output, as each lane compiles it, the
/// project's first lane first (JSON Compilation Database, Clang documentation). What it says of lanes that are not
/// among these stays, as far as their sources are there. Errors: io.
FIBULA_API Result<void> compilation_database(const Project& project, const std::vector<const Fit*>& fits);

}  // namespace fibula::emit
