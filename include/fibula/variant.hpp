/// Variants: the sets of binaries that a library version has.
#pragma once

#include <fibula/linkage.hpp>
#include <fibula/target.hpp>

#include <map>
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

}  // namespace fibula
