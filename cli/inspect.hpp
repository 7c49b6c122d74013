/// What `inspect` looked at, and the two printers over it.
#pragma once

#include <fibula/fibula.hpp>

#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace cli {

struct InspectWishes {
  bool symbols = false;
  bool members = false;
  bool needs = false;
  fibula::ClosureOptions closure = {};  ///< the system for which needs are looked up
};

/// One path of the command line: a file, or a folder with everything in it.
struct Inspected {
  std::string path;
  fibula::Result<fibula::Facts> facts = fibula::Facts{};  ///< of a file
  std::optional<fibula::FolderView> folder = {};
  std::string root = {};  ///< where the folder's files are: a download is unpacked out of the way
  std::shared_ptr<const void> place = {};
};

/// A file's card: what it is in one line, then its facts, each with where it was read.
void print_card(const fibula::Facts& facts, const std::string& title, std::string_view indent = "");
/// The tree of a folder.
void print_tree(const std::string& path, const fibula::FolderView& view);
/// The symbols of a file, lent one by one, so that any number prints at once.
fibula::Result<uint64_t> print_symbols(const std::string& path);

}  // namespace cli
