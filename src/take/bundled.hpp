/// Headers of other libraries that came along in folders of their own: `vendor/knot/include/knot.h`.
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

 private:
  std::map<std::string, std::vector<std::string>> files_;  ///< by their names without folders
};

}  // namespace fibula
