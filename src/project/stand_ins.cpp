#include "project/stand_ins.hpp"

#include "headers/well_known_headers.hpp"
#include "making/configure_script.hpp"
#include "os/stamp.hpp"
#include "take/sources/library_functions.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// Folders with what a system may lack.
bool is_for_what_lacks(const std::filesystem::path& folder) {
  const std::string name = folder.filename().string();
  return name == "compat" || name == "missing" || name == "replace" || name == "replacements";
}

}  // namespace

StandIns::StandIns(std::filesystem::path root, const BuildsFor& lanes, const CodeTree& tree)
    : root_(std::move(root)), lanes_(lanes), tree_(tree), replaced_(replaced_functions(root_)) {}

bool StandIns::has(const std::string& file) const {
  const std::filesystem::path path(file), folder = path.parent_path();
  const std::string stem = path.stem().string();
  const auto& defines = tree_.file(file).names.defines;
  if (is_of_gettext(folder) || is_replaced(stem, defines)) return true;
  if (!lanes_.is_for_posix_alone()) return false;
  const bool all_there = !defines.empty() && std::all_of(defines.begin(), defines.end(), [&](const std::string& name) {
    return is_there_by_itself(name);
  });
  return (is_for_what_lacks(folder) && all_there) || is_usual_stand_in(stem, defines);
}

/// A copy of gettext in `intl` is for systems without one (its manual, "Files You Must Create or Alter"); Linux' C
/// libraries have it.
bool StandIns::is_of_gettext(const std::filesystem::path& folder) const {
  return lanes_.is_for_linux_alone() && folder.filename() == "intl" &&
         stamp_of(root_ / folder / "gettextP.h").is_file();
}

bool StandIns::is_there_by_itself(const std::string& function) const {
  return is_c99_function(function) ||
         (lanes_.is_for_posix_alone() && (is_posix_function(function) || is_beyond_posix(function)));
}

bool StandIns::is_replaced(const std::string& stem, const std::set<std::string>& defines) const {
  return replaced_.contains(stem) && defines.contains(stem) && is_there_by_itself(stem);
}

/// Where all lanes have the system's own, <getopt.h> is that one.
bool StandIns::has_header_of_its_own(const std::string& header) const {
  if (!tree_.came(header)) return false;
  if (!lanes_.is_for_linux_alone() || !comes_with_linux(header)) return true;
  return std::any_of(tree_.files().begin(), tree_.files().end(), [&](const auto& file) {
    const auto& includes = file.second.includes;
    return std::any_of(includes.begin(), includes.end(),
                       [&](const IncludeLine& line) { return line.quoted && line.name == header; });
  });
}

/// `getopt.c` for systems whose C library has no such function: those of POSIX have (POSIX.1-2017, System Interfaces).
/// With a header of its own it is meant.
bool StandIns::is_usual_stand_in(const std::string& stem, const std::set<std::string>& defines) const {
  static constexpr std::string_view functions[] = {"getopt",   "strdup",    "strndup", "strcasecmp",
                                                   "snprintf", "vsnprintf", "fnmatch", "glob",
                                                   "strtok_r", "getline",   "strnlen", "setenv"};
  return !has_header_of_its_own(stem + ".h") && defines.contains(stem) &&
         std::find(std::begin(functions), std::end(functions), stem) != std::end(functions);
}

}  // namespace fibula
