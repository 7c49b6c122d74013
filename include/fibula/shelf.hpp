/// The shelf: where libraries are kept on a machine, by name and version, each with a card that describes it.
///
/// A shelf is a folder: `<name>/<version>/card.toml`, with the library's files beside the card in `files/` (or left
/// where they are, for a library that was taken in place) and their SHA-256 digests in `contents.sha256`. An entry
/// appears whole or not at all.
#pragma once

#include <fibula/lane.hpp>
#include <fibula/result.hpp>
#include <fibula/target.hpp>

#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// One set of binaries of a library version that belong together. Paths are relative to the library's files.
struct FIBULA_API Variant {
  std::string id;
  Target target;
  Linkage linkage = Linkage::static_;
  std::string configuration = "unknown";  ///< debug, release or unknown
  std::vector<std::string> link = {};     ///< what the linker is given
  std::vector<std::string> runtime = {};  ///< what the loader will ask for
  std::vector<std::string> needs = {};    ///< run-time files that these ask for, by name
  std::map<std::string, std::string, std::less<>> facts =
      {};                                          ///< what decides whether it fits, by the ids of facts: "float-abi"
  std::vector<std::string> definitions = {};       ///< that the library's users need
  std::vector<std::string> system_inputs = {};     ///< known needs of the system's libraries: "m"
  std::map<std::string, std::string> learnt = {};  ///< how each value was learnt

  /// A fact's value; empty where no file told it.
  const std::string& fact(std::string_view id) const;
};

/// The description of one library version.
struct Card {
  std::string name;
  std::string version;
  std::string licence = {};  ///< SPDX expression, where known
  std::string origin_kind;   ///< folder, prefix
  std::string origin;        ///< where it was taken from
  std::string digest;        ///< SHA-256 over the digests of all files
  bool in_place = false;
  std::vector<std::string> include_directories;
  std::vector<std::string> public_headers;
  std::vector<Variant> variants;
  std::filesystem::path root = {};  ///< where its files are; absolute, not part of the card's text

  bool headers_only() const { return variants.empty(); }
};

/// One thing that is no longer as it was when the library was taken.
struct Change {
  std::string file;
  std::string what;  ///< changed, missing
};

class FIBULA_API Shelf {
 public:
  /// The user's shelf: FIBULA_SHELF, else `fibula/shelf` in the XDG data folder. It need not exist yet. Errors:
  /// missing_tool (neither is set, and there is no HOME).
  static Result<Shelf> standard();
  static Shelf at(std::filesystem::path folder);

  const std::filesystem::path& folder() const { return folder_; }

  /// Every card, by name, newest version first. Errors: malformed card (with file and line).
  Result<std::vector<Card>> libraries() const;
  /// The versions of one library, newest first; empty when there is none.
  Result<std::vector<Card>> versions(const std::string& name) const;
  Result<Card> card(const std::string& name, const std::string& version) const;
  /// Names that are on the shelf.
  std::vector<std::string> names() const;

  /// Reads every file again and compares it with what was taken. Errors: absent, malformed.
  Result<std::vector<Change>> check(const Card& card) const;
  /// Takes a version off the shelf; files taken in place stay where they are. Errors: absent, io.
  Result<bool> drop(const std::string& name, const std::string& version) const;

 private:
  explicit Shelf(std::filesystem::path folder) : folder_(std::move(folder)) {}
  std::filesystem::path folder_;
};

/// Reads a card from a folder that holds `card.toml`, as a shelf entry or a copy inside a project does. Errors: absent,
/// malformed.
FIBULA_API Result<Card> read_card(const std::filesystem::path& folder);

}  // namespace fibula
