/// Taking a library as it comes onto a shelf.
#pragma once

#include <fibula/shelf.hpp>

namespace fibula {

struct TakeRequest {
  std::filesystem::path source;  ///< a folder, or a prefix such as /usr
  std::string library = {};      ///< with a prefix: which of its libraries
  std::string name = {};         ///< overrides the name that was read
  std::string version = {};      ///< overrides the version that was read
  bool in_place = false;         ///< describe the files where they are, copy nothing
  bool replace = false;          ///< take the place of an entry of the same version
  bool headers_only = false;     ///< the headers need no binary, whatever they declare
  bool dry_run = false;          ///< describe, write nothing
};

struct Taken {
  Card card;
  bool already_there = false;        ///< the same files were on the shelf
  std::vector<std::string> remarks;  ///< what was left out, and what is odd
};

/// Reads the source, writes its card, and puts both on the shelf, whole or not at all.
/// Errors: absent, unreadable, truncated, malformed, not_a_library (a file with a library's name that is none), refused
/// (name or version unknown; another version's files under the same version; headers without their library), io.
FIBULA_API Result<Taken> take(const Shelf& shelf, const TakeRequest& request);

/// The text of a card, as `card.toml` holds it.
FIBULA_API std::string card_text(const Card& card);

}  // namespace fibula
