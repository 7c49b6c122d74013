/// The shelf: where libraries are kept on a machine, by name and version, each with a card that describes it.
///
/// A shelf is a folder: `<name>/<version>/card.toml`, with the library's files beside the card in `files/` (or left
/// where they are, for a library that was taken in place) and their SHA-256 digests in `contents.sha256`. An entry
/// appears whole or not at all. The same folder given out by a plain web server is a shelf too, to read from.
#pragma once

#include <fibula/lane.hpp>
#include <fibula/result.hpp>
#include <fibula/target.hpp>

#include <chrono>
#include <filesystem>
#include <map>
#include <memory>
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
  std::vector<std::string> plugins = {};  ///< that its code opens by itself while the program runs
  std::map<std::string, std::string, std::less<>> facts =
      {};  ///< what decides whether it fits, by the ids of facts: "float-abi"
  std::vector<std::string> include_directories = {};  ///< for this variant alone, beside those of the library
  std::vector<std::string> debug = {};                ///< debugging records of its files
  std::vector<std::string> definitions = {};          ///< that the library's users need
  std::vector<std::string> system_inputs = {};        ///< known needs of the system's libraries: "m"
  std::map<std::string, std::string> learnt = {};     ///< how each value was learnt

  /// A fact's value; empty where no file told it.
  const std::string& fact(std::string_view id) const;
};

/// What of a library's files is named for people and for later steps. Paths are relative to the library's files.
struct CardFiles {
  std::vector<std::string> licences = {};
  std::vector<std::string> data = {};  ///< read at run time
  std::vector<std::string> samples = {};
  std::vector<std::string> documents = {};
};

/// A library that comes as source: what is to be compiled into it. Paths are relative to the library's files.
struct SourceCode {
  std::vector<std::string> compile = {};
  std::vector<std::string> include_directories = {};  ///< for its own sources, not for its users
  std::vector<std::string> definitions = {};          ///< for its own sources
};

/// Another library that this one cannot be used without.
struct Requirement {
  std::string library;
  std::string version = {};     ///< a range, ">=2.1 <3"; empty takes any
  std::string header;           ///< of that library, as it is included: "saltlog/log.h"
  std::string because;          ///< "include/horn.h includes saltlog/log.h"
  bool shared_include = false;  ///< its headers expect to lie in one directory with those of the other
};

/// Where a library came from.
struct Origin {
  std::string kind;         ///< folder, archive, package, file, repository, prefix
  std::string path;         ///< folder, file or URL
  std::string sha256 = {};  ///< of the file that was taken, where it was one
  std::string commit = {};  ///< of a repository
};

/// The description of one library version.
struct FIBULA_API Card {
  std::string name;
  std::string version;
  std::string licence = {};  ///< SPDX expression, where known
  Origin origin;
  std::string digest;  ///< SHA-256 over the digests of all files
  bool in_place = false;
  std::vector<std::string> include_directories;
  std::vector<std::string> public_headers;
  std::vector<Variant> variants;
  SourceCode source = {};  ///< empty: it comes built, or has nothing to build
  std::vector<Requirement> requirements = {};
  CardFiles files = {};
  std::filesystem::path root = {};   ///< where its files are; absolute, not part of the card's text
  std::filesystem::path entry = {};  ///< where `card.toml` is; absolute, not part of the card's text

  bool comes_as_source() const { return !source.compile.empty(); }
  bool headers_only() const { return variants.empty() && !comes_as_source(); }
  /// What stands on the include path for a variant, relative to the library's files; for none: for any of them.
  std::vector<std::string> include_directories_for(const Variant* variant = nullptr) const;
};

/// One thing that is no longer as it was when the library was taken.
struct Change {
  std::string file;
  std::string what;  ///< changed (in place), damaged (the shelf's own copy), missing
};

/// One line of a shelf's list.
struct ShelfLine {
  std::string name;
  std::string version;
  std::string variants;  ///< "x86_64-elf-static, x86_64-elf-shared", "headers only", "source"
  std::string in_place;  ///< where its files are, for a library taken in place
  std::string shelf;     ///< the folder or URL
};

/// A project that used a library, and when it did so last.
struct ShelfUse {
  std::filesystem::path project;
  std::chrono::system_clock::time_point last;
};

/// One shelf, or several in order: what an earlier one has hides what a later one has under the same name and version.
class FIBULA_API Shelf {
 public:
  /// The user's shelf: what FIBULA_SHELF names (several places, with semicolons between), else `fibula/shelf` in the
  /// XDG data folder. It need not exist yet. Errors: missing_tool (neither is set, and there is no HOME), usage.
  static Result<Shelf> standard();
  static Shelf at(std::filesystem::path folder);
  /// Folders, or URLs of shelves that a web server gives out (http, https). Errors: usage (no place, or an URL of
  /// another kind).
  static Result<Shelf> in_order(const std::vector<std::string>& places);
  /// These places first, then the other's.
  Shelf before(const Shelf& other) const;

  /// Where libraries are taken to: the first place that is a folder. Empty when all are served.
  const std::filesystem::path& folder() const;
  /// Every place, for messages.
  std::string shown() const;

  /// Every card, by name, newest version first. Errors: malformed card (with file and line), those of a server.
  Result<std::vector<Card>> libraries() const;
  /// The same in short, without reading cards where the shelf's index does.
  Result<std::vector<ShelfLine>> list() const;
  /// The versions of one library, newest first; empty when there is none.
  Result<std::vector<Card>> versions(const std::string& name) const;
  Result<Card> card(const std::string& name, const std::string& version) const;
  /// Names that are on the shelf.
  std::vector<std::string> names() const;
  /// Sees to it that a card's files are on this machine; those of a served shelf are fetched, and their digests
  /// checked. Errors: those of a download, refused (another digest).
  Result<bool> bring(const Card& card) const;

  /// Reads every file again and compares it with what was taken. Errors: absent, malformed.
  Result<std::vector<Change>> check(const Card& card) const;
  /// Takes a version off the shelf; files taken in place stay where they are. Errors: refused (it is in none of the
  /// folders), io.
  Result<bool> drop(const std::string& name, const std::string& version) const;

  /// Notes that a project uses the library whose card is in a folder (`Card::entry`); at most once a day, and only
  /// where the shelf can be written to.
  void note_use(const std::filesystem::path& entry, const std::filesystem::path& project) const;
  /// The projects that used a version, the last one first.
  std::vector<ShelfUse> uses(const std::string& name, const std::string& version) const;

 private:
  struct Place;
  using Places = std::vector<std::shared_ptr<Place>>;
  explicit Shelf(Places places) : places_(std::move(places)) {}
  Places places_;
};

/// Reads a card from a folder that holds `card.toml`, as a shelf entry or a copy inside a project does. Errors: absent,
/// malformed.
FIBULA_API Result<Card> read_card(const std::filesystem::path& folder);

/// The text of a card, as `card.toml` holds it.
FIBULA_API std::string card_text(const Card& card);

}  // namespace fibula
