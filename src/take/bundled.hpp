/// Other libraries that came along in folders of their own: `vendor/knot/include/knot.h`.
#pragma once

#include "take/source.hpp"

namespace fibula {

class Bundled {
 public:
  explicit Bundled(const Source& source);

  /// The directory from which `#include <name>` finds one, the first in the order of names; empty where there is none.
  std::string directory_with(const std::string& name) const;

  /// The folder of the library whose header that is: `vendor/knot`.
  std::string library_with(const std::string& name) const;

  /// Folders of all that have a header of that name, in whatever folder of theirs.
  std::set<std::string> libraries_with_file(const std::string& name) const;

  /// What may be code of these libraries themselves: no tests and samples of theirs, and nothing that they brought.
  std::vector<std::string> code_of(const std::set<std::string>& libraries) const;

 private:
  std::map<std::string, std::vector<std::string>> files_;  ///< by their names without folders
};

}  // namespace fibula
