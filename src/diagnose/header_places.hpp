/// Where a header lies that a compiler did not find, or took from the wrong place.
#pragma once

#include "diagnose/evidence.hpp"

namespace fibula {

struct HeaderPlace {
  fs::path file;
  fs::path folder = {};           ///< that must stand on the include path; empty: the name is what is wrong
  std::string name = {};          ///< as it must be written
  bool of_other_library = false;  ///< than the file that includes it
  unsigned line = 0;              ///< of a makefile whose rule makes it
};

/// A header that a library on the shelf, or attached to the project, has.
struct ShelfHeader {
  fs::path file;
  std::string name, library, version;
  bool as_written = false;
  bool attached = false;
};

class HeaderPlaces {
 public:
  /// `includer`: the file that includes it, absolute. `command` may be null.
  HeaderPlaces(const ToolCommand* command, Evidence& evidence, fs::path includer, std::string name);

  /// In a folder that is searched, in other letters, with back-slashes, with or without a folder before it.
  std::optional<HeaderPlace> spelled_otherwise() const;
  /// The text from which it is to be made.
  std::optional<HeaderPlace> to_be_generated() const;
  /// In a folder that is not searched.
  std::optional<HeaderPlace> near() const;
  std::optional<HeaderPlace> near_in_other_letters() const;
  std::optional<HeaderPlace> near_with_other_ending() const;
  std::optional<ShelfHeader> on_shelf() const;
  /// In a folder inside one of the compiler's own.
  std::optional<HeaderPlace> in_system_folder() const;

 private:
  std::optional<HeaderPlace> by_own_build() const;
  std::vector<fs::path> near_headers() const;
  /// The command's, where it is a compiler driver that answers; else null.
  const Toolchain* asked_toolchain() const;
  bool is_for_another(const fs::path& folder) const;
  bool is_of_other_library(const fs::path& root) const;
  template <class Matches>
  std::optional<HeaderPlace> near_as(const Matches& matches) const;

  const ToolCommand* command_;
  Evidence& evidence_;
  fs::path includer_;
  std::string name_;
  std::vector<fs::path> searched_;
  fs::path folder_;
};

/// A folder with a header of a name that the command's sources include, and the other file that is taken.
struct RivalFolder {
  fs::path folder, found;
  std::string name;
};
std::vector<RivalFolder> rival_folders(const ToolCommand& command, Evidence& evidence);

/// Headers, as they would be included, that may declare a name: the standard's, then those near that mention it.
std::vector<std::string> headers_with(const std::string& name, const ToolCommand& command, Evidence& evidence);

}  // namespace fibula
