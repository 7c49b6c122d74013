/// The shelf: where libraries are kept on a machine, by name and version, each with a card that describes it.
///
/// A shelf is a folder: `<name>/<version>/card.toml`, with the library's files beside the card in `files/` (or left
/// where they are, for a library that was taken in place) and their SHA-256 digests in `contents.sha256`. An entry
/// appears whole or not at all. The same folder given out by a plain web server is a shelf too, to read from.
#pragma once

#include <fibula/card.hpp>
#include <fibula/result.hpp>

#include <chrono>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace fibula {

/// One thing that is no longer as it was when the library was taken.
struct Change {
  std::string file;
  std::string what;            ///< changed (in place), damaged (the shelf's own copy), missing
  std::filesystem::path path;  ///< where it lies
};

/// One line of a shelf's list.
struct ShelfLine {
  std::string name;
  std::string version;
  std::string variants;  ///< "x86_64-elf-static, x86_64-elf-shared", "headers only", "source"
  std::string in_place;  ///< where its files are, for a library taken in place
  std::string shelf;     ///< the folder or URL
  std::string card;      ///< SHA-256 of its card
};

/// A part of a place's index: while its digest is the same, the same versions with the same cards are in it.
struct ShelfPart {
  std::string name;  ///< two hexadecimal digits
  std::string digest;
};

/// What was handed on.
struct Published {
  bool entry = false;  ///< the library itself; false: it was there
  size_t builds = 0;   ///< outcomes of what comes as source
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
  /// The same in short, without reading cards where the shelf's index does; of these libraries alone, where some are
  /// named.
  Result<std::vector<ShelfLine>> list(const std::vector<std::string>& libraries = {}) const;
  /// Each place as a shelf of its own.
  std::vector<Shelf> places() const;
  /// What the first place's index is made of, to learn what changed since it was looked at. Errors: absent (it has
  /// none), those of a server.
  Result<std::vector<ShelfPart>> parts() const;
  /// What is in one. Errors: absent, malformed, those of a server.
  Result<std::vector<ShelfLine>> list_part(const ShelfPart& part) const;
  /// The versions of one library, newest first; empty when there is none.
  Result<std::vector<Card>> versions(const std::string& name) const;
  Result<Card> card(const std::string& name, const std::string& version) const;
  /// Names that are on the shelf.
  std::vector<std::string> names() const;
  /// Sees to it that a card's files are on this machine; those of a served shelf are fetched, and their digests
  /// checked. Errors: those of a download, refused (another digest).
  Result<void> bring(const Card& card) const;

  /// What was built of a library that came as source, kept under `place` (".built/<name>/<version>/<key>"), with its
  /// files on this machine; nothing where no place has it whole. What a server has is checked by the digests of its
  /// list. Errors: io.
  Result<std::optional<Card>> built(const std::string& place) const;

  /// Hands on a version that is here, and what was built of it, to another shelf's folder, or to the address of one
  /// whose server takes files (PUT) and looks at If-Match: eight may publish at once, and nothing is lost. What is
  /// there under the same version stays. Errors: absent, refused (other files are there under the version; a library in
  /// place; a server that looks at no condition), those of the server, io.
  Result<Published> publish(const Card& card, const std::string& place) const;
  /// Only what was built of it: each outcome is under a name of its own, so any server that takes PUT will do. Errors:
  /// absent (nothing was built of it here), those of the server, io.
  Result<Published> publish_builds(const Card& card, const std::string& place) const;

  /// Reads every file again and compares it with what was taken. Errors: absent, malformed.
  Result<std::vector<Change>> check(const Card& card) const;
  /// Takes a version off the shelf; files taken in place stay where they are. Errors: refused (it is in none of the
  /// folders), io.
  Result<void> drop(const std::string& name, const std::string& version) const;

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

}  // namespace fibula
