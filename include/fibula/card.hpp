/// Cards: the description of one library version, as `card.toml` holds it.
#pragma once

#include <fibula/result.hpp>
#include <fibula/source_code.hpp>
#include <fibula/variant.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

/// What of a library's files is named for people and for later steps. Paths are relative to the library's files.
struct CardFiles {
  std::vector<std::string> licences = {};
  std::vector<std::string> data = {};  ///< read at run time
  std::vector<std::string> samples = {};
  std::vector<std::string> documents = {};
};

/// Another library that this one cannot be used without.
struct Requirement {
  std::string library = {};     ///< empty: nothing on the shelf had the header when this one was taken
  std::string version = {};     ///< a range, ">=2.1 <3"; empty takes any
  std::string header;           ///< of that library, as it is included: "saltlog/log.h"
  std::string by = {};          ///< its own header that asks, relative to its files
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
  std::string licence = {};       ///< SPDX expression, where known
  std::string licence_from = {};  ///< the file that says it, and how
  Origin origin;
  std::string digest;  ///< SHA-256 over the digests of all files
  bool in_place = false;
  std::vector<std::string> include_directories;
  std::vector<std::string> public_headers;
  std::vector<Variant> variants;
  SourceCode source = {};  ///< empty: it comes built, or has nothing to build
  std::vector<Requirement> requirements = {};
  CardFiles files = {};
  std::string trial = {};            ///< statements of a program that proves it: start it, ask it something, end it
  std::filesystem::path root = {};   ///< where its files are; absolute, not part of the card's text
  std::filesystem::path entry = {};  ///< where `card.toml` is; absolute, not part of the card's text

  bool lies_open = false;  ///< in a folder that somebody works in; not part of the card's text

  bool comes_as_source() const { return !source.empty(); }
  /// Its files can change without it: nobody keeps them as they were taken.
  bool is_open() const { return in_place || lies_open; }
  bool headers_only() const { return variants.empty() && !comes_as_source(); }
  /// What stands on the include path for a variant, relative to the library's files; for none: for any of them.
  std::vector<std::string> include_directories_for(const Variant* variant = nullptr) const;
};

/// Reads a card from a folder that holds `card.toml`, as a shelf entry or a copy inside a project does. Errors: absent,
/// malformed.
FIBULA_API Result<Card> read_card(const std::filesystem::path& folder);

/// The text of a card, as `card.toml` holds it.
FIBULA_API std::string card_text(const Card& card);

}  // namespace fibula
