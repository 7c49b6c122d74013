/// Taking a library as it comes onto a shelf.
///
///     auto taken = fibula::take(shelf, {.sources = {"tidecalc-2.1.0.tar.gz"}});
///     std::cout << fibula::card_text(taken->card);
#pragma once

#include <fibula/progress.hpp>
#include <fibula/shelf.hpp>

#include <functional>

namespace fibula {

struct TakeRequest {
  /// A folder, an archive, a parcel, a system package, a header, a URL, a git repository, or a prefix such as /usr.
  /// Several files and folders are taken as one library: packages that belong together, a header and its source or its
  /// archive.
  std::vector<std::string> sources;
  std::string library = {};       ///< with a prefix: which of its libraries
  std::string name = {};          ///< overrides the name that was read
  std::string version = {};       ///< overrides the version that was read
  std::string sha256 = {};        ///< that the file must have
  std::string at = {};            ///< of a repository: the tag, branch or commit
  bool submodules = false;        ///< of a repository: its submodules too
  bool in_place = false;          ///< describe the files where they are, copy nothing
  bool add = false;               ///< join the version that is on the shelf: more builds of it
  bool replace = false;           ///< take the place of an entry of the same version
  bool headers_only = false;      ///< the headers need no binary, whatever they declare
  bool dry_run = false;           ///< describe, write nothing
  bool signed_only = false;       ///< only a parcel that is signed with a trusted key
  bool portable = false;          ///< the card names no folder of this machine: for a shelf inside a project
  std::string called_from = {};   ///< what its card gives as its origin instead of the folder that is named
  uint64_t limit = 16ULL << 30U;  ///< bytes that may be downloaded or unpacked
  ProgressSink progress = {};
  /// Asked once for what no file tells ("version of tidecalc"), where somebody is there to answer; an empty answer is
  /// none.
  std::function<std::string(const std::string& what)> ask = {};
  /// Which variants are kept, by their ids; not set: all. What the others brought is left out with them.
  std::function<std::vector<std::string>(const Card&)> variants = {};
};

struct Taken {
  Card card;
  bool already_there = false;        ///< the same files were on the shelf
  std::vector<std::string> remarks;  ///< what was left out, and what is odd
};

/// Reads the source, writes its card, and puts both on the shelf, whole or not at all. Nothing of it is executed.
/// Errors: usage, absent, unreadable, truncated, malformed, unsupported, limit, missing_tool (no git, no archive
/// library), not_a_library (a file with a library's name that is none), refused (name or version unknown; another
/// version's files under the same version; headers without their library; a wrong digest; an archive that is not to be
/// trusted), io.
FIBULA_API Result<Taken> take(const Shelf& shelf, const TakeRequest& request);

/// Puts a copy of another shelf's entry on a shelf, with its card as it was corrected; of the request only `variants`
/// and `replace` count. The entry's files must be on this machine (`Shelf::bring`). Errors: refused (other files under
/// the same version; no variant is wanted), io.
FIBULA_API Result<Taken> take_entry(const Shelf& shelf, const Card& entry, const TakeRequest& request = {});

/// The same for a folder that stays where it is and comes onto no shelf: what a card would say of it. Its version is
/// empty where nothing tells it. Of one library file, what its bytes tell. Errors: as `take`.
FIBULA_API Result<Taken> describe(const std::filesystem::path& folder);

}  // namespace fibula
