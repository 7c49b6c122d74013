/// Parcels: a library as one file to hand on, checked first, and the same bytes every time.
///
///     auto made = fibula::make_parcel(*shelf, {.name = "tidecalc"});
///     if (made && made->written) std::cout << made->file << ' ' << made->sha256 << '\n';
///
/// `take` takes a parcel onto a shelf, and looks at every byte of it.
#pragma once

#include <fibula/keys.hpp>
#include <fibula/project.hpp>
#include <fibula/result.hpp>
#include <fibula/shelf.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

struct ParcelRequest {
  std::string name;
  std::string version = {};                ///< empty: the newest
  std::vector<std::string> variants = {};  ///< their ids; empty: all
  std::filesystem::path to = {};           ///< a folder, or the file; empty: the current folder
  std::string sign_with = {};              ///< a key's name or id
  bool with_source = false;                ///< a library that comes as source: its sources
  bool untried = false;                    ///< without a trial
  bool anyway = false;                     ///< in spite of findings that stand against it
  bool replace = false;                    ///< a file of that name may be there
};

/// What whoever gets the parcel would stumble over.
struct ParcelFinding {
  std::string subject;  ///< a file of the library, or a variant
  std::string what;
  std::string remedy;
  bool stands_against = false;  ///< the parcel is not made
};

struct Parcel {
  std::string name, version;
  std::vector<std::string> variants;
  std::filesystem::path file;
  bool written = false;
  uint64_t size = 0;   ///< bytes
  std::string sha256;  ///< of the file
  std::string signed_with = {};
  std::vector<ParcelFinding> findings = {};
  std::vector<std::string> tried = {};  ///< variants for which a program was compiled, linked and, where it can be, run
  std::vector<std::string> not_tried = {};  ///< and why not
};

/// Checks a library of the shelf and packs it: its card, headers, binaries of the variants, run-time and data files,
/// licence, digests. Findings that stand against it leave it unwritten. Errors: absent, usage (no such variant; a
/// library that comes as source, without `with_source`), refused (its files are not as they were taken; another file
/// has the name), those of a key, missing_tool, io.
FIBULA_API Result<Parcel> make_parcel(const Shelf& shelf, const ParcelRequest& request);

/// The same of a library that a project makes, as it is built now, under `request.version`. Libraries that it requires
/// are looked for on the shelf. Errors: also usage (no version), those of `take_output`.
FIBULA_API Result<Parcel> make_output_parcel(const Project& project, const Shelf& shelf, const ParcelRequest& request);

/// The same of a library that comes as source, as it is built for this project's lanes: headers and builds, no sources.
/// Errors: also refused (the project does not build it; nothing of it is built as its settings are now).
FIBULA_API Result<Parcel> make_built_parcel(const Project& project, const Shelf& shelf, const ParcelRequest& request);

}  // namespace fibula
