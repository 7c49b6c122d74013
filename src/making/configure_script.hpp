/// What a tree's own configure step says of what it builds (GNU Autoconf manual). The scripts are read, not run.
#pragma once

#include <filesystem>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

namespace fibula {

/// From `configure` (`PACKAGE_VERSION='2.1'`) or its source (`AC_INIT([tide], [2.1])`; GNU Autoconf manual,
/// "Initializing configure"); empty where neither is there, or where the text does not say it.
std::string configured_version(const std::filesystem::path& root);

/// What that step calls it in names of files and folders ("Initializing configure": the tarname); empty likewise.
std::string configured_name(const std::filesystem::path& root);

struct ConfiguredHeader {
  std::string name;            ///< relative to the tree: "config.h"
  std::string script;          ///< that says so: "configure.ac"
  std::string made_from = {};  ///< where the script names it: "autoconf/header.in"
};

/// The headers that it would make (`AC_CONFIG_HEADERS([config.h])`; "Configuration Header Files").
std::vector<ConfiguredHeader> configured_headers(const std::filesystem::path& root);

/// The headers that a `configure` script of GNU Autoconf makes in any way, also by commands and links ("Configuration
/// Actions"), by the last part of their names in small letters.
std::set<std::string> headers_made_by_script(const std::filesystem::path& root);

/// Whether a script that was written by hand writes a file of that name: `echo … > config.h`.
bool is_written_by_script(const std::filesystem::path& root, const std::string& name);

/// What a header that it makes holds beside its definitions, before and behind them (GNU Autoconf manual, "Autoheader
/// Macros"): `AH_TOP`, `AH_BOTTOM`, `AH_VERBATIM`.
struct VerbatimText {
  std::string top, bottom;
};
VerbatimText verbatim_text(const std::filesystem::path& root);

/// Of these names, those like `HAVE_STDINT_H` and `HAVE_STRERROR` that it finds out: the header or function is named in
/// it.
std::set<std::string> asked_by_script(const std::filesystem::path& root, const std::set<std::string>& names);

/// Whether it defines `PACKAGE` and `VERSION` (GNU Automake manual, "Public Macros").
bool defines_package(const std::filesystem::path& root);

/// What it defines whatever it finds out, by name: `AC_DEFINE([CHUNK_SIZE], [8192])` at the top of the script
/// ("Defining C Preprocessor Symbols"), and `_GNU_SOURCE` where the script asks for all that a system has ("Posix
/// Variants").
std::map<std::string, std::string> configured_definitions(const std::filesystem::path& root);

/// Whether compilers are handed `PACKAGE` and `VERSION`, since there is no header for them (GNU Automake manual,
/// "Public Macros").
bool hands_over_version(const std::filesystem::path& root);

/// Where it defines a name, whenever it does.
struct ScriptPlace {
  std::string file;
  unsigned line = 0;
};
std::optional<ScriptPlace> definition_in_script(const std::filesystem::path& root, const std::string& name);

/// Functions for which the tree brings a source, for systems without them (`AC_REPLACE_FUNCS([strerror])`; "Generic
/// Functions").
std::set<std::string> replaced_functions(const std::filesystem::path& root);

/// Sources of the tree with which it tries something out: their texts go into a test (`cat config/pthread.c`).
std::set<std::string> tried_sources(const std::filesystem::path& root);

}  // namespace fibula
