/// What a project's own makefiles hand to the compiler: macros that its sources use and nothing in them defines.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// A `-DNAME=VALUE` in a makefile (POSIX.1-2017, "make").
struct HandedDefinition {
  std::string name;
  std::string file;  ///< relative to the project
  unsigned line = 0;
  std::string written;  ///< as it stands there: `-DVERSION=\"$(VERSION)\"`
  /// "VERSION=\"2.1\"", as the compiler is given it; none where a condition, a function of make or an unknown variable
  /// decides.
  std::optional<std::string> definition = {};
};

/// Of the makefiles at the top of a folder and in its folders of sources; also of those that a configure step fills in.
/// Nothing is run: variables are followed as far as the texts give them, and as a configure step without options would.
std::vector<HandedDefinition> handed_definitions(const std::filesystem::path& root);
/// The same of the makefiles among files that are known, `files` relative to `root`: also of those beside sources, but
/// for tests and samples.
std::vector<HandedDefinition> handed_definitions(const std::filesystem::path& root,
                                                 const std::vector<std::filesystem::path>& files);

/// A rule of a makefile in a folder that makes a file of that name.
struct MakefileRule {
  std::string file;  ///< the makefile, in the folder
  unsigned line = 0;
};
std::optional<MakefileRule> rule_making(const std::filesystem::path& folder, const std::string& name);

}  // namespace fibula
