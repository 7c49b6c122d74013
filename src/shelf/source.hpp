/// What lies in a folder that somebody wants to take: headers, binaries, licence; read, not yet described.
#pragma once

#include <fibula/facts.hpp>
#include <fibula/shelf.hpp>

namespace fibula {

struct Binary {
  std::string file;  ///< relative to the source's root, as the linker would be given it
  Facts facts;
};

struct Source {
  std::filesystem::path root;
  std::string kind;                  ///< folder, prefix
  std::vector<std::string> headers;  ///< relative to the root
  std::vector<Binary> binaries;
  std::vector<std::string> extra;  ///< other files that go along: licences
  std::vector<std::string> remarks;
  std::string package_version;  ///< of the system package that the files belong to, where there is one
};

/// Reads the facts of these files. A file with a library's name that is none is an error: taking it would only move the
/// surprise.
Result<bool> add_binaries(Source& source, const std::vector<std::string>& files);

/// Everything in one unpacked folder. Errors: absent, unreadable, and those of a damaged or foreign binary.
Result<Source> source_in_folder(const std::filesystem::path& folder);

/// One library of a prefix: by the lists of the system's packages where the prefix has them, else by names. Errors:
/// refused (nothing of that name).
Result<Source> source_in_prefix(const std::filesystem::path& prefix, const std::string& library);

/// The version that the headers' macros give (`TIDE_VERSION "2.1"`, or major, minor and patch), or an empty text.
std::string version_in_headers(const Source& source, const std::string& name);
/// The licence that the headers name with an SPDX tag, or an empty text.
std::string licence_in_headers(const Source& source);

/// Gives each variant for Windows the definition that its users need, so that the headers declare imports for a DLL and
/// none for a static library, where the headers' conditionals tell which it is.
void add_import_definitions(const Source& source, std::vector<Variant>& variants);

/// The variants that a source's binaries make up.
std::vector<Variant> variants_in(const Source& source);

}  // namespace fibula
