/// What makefiles hand to the compiler: macros that sources use and nothing in them defines.
#pragma once

#include "headers/condition.hpp"

#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// A `-DNAME=VALUE` in a makefile (POSIX.1-2017, "make").
struct HandedDefinition {
  std::string name;
  std::string file;  ///< relative to the project or tree
  unsigned line = 0;
  std::string written;  ///< as it stands there: `-DVERSION=\"$(VERSION)\"`
  /// "VERSION=\"2.1\"", as the compiler is given it; none where a condition, a function of make or an unknown variable
  /// decides.
  std::optional<std::string> definition = {};
};

/// Of a makefile, `file` relative to `root`. Nothing is run: variables and conditionals are followed as far as the
/// texts give them. `configured`: what a configure step without options would fill in.
std::vector<HandedDefinition> definitions_in_makefile(const std::filesystem::path& root,
                                                      const std::filesystem::path& file,
                                                      const std::map<std::string, std::string>& configured);

/// The macros of these whose values are known.
DefinedNames handed_names(const std::vector<HandedDefinition>& handed);

/// A rule of a makefile in a folder that makes a file of that name.
struct MakefileRule {
  std::string file;  ///< the makefile, in the folder
  unsigned line = 0;
};
std::optional<MakefileRule> rule_making(const std::filesystem::path& folder, const std::string& name);

}  // namespace fibula
