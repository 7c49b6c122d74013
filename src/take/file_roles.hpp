/// What a file of a download is there for, by its name and the folders it lies in. Whether a library is one is read
/// from its bytes later.
#pragma once

#include <filesystem>
#include <set>
#include <string>
#include <vector>

namespace fibula {

enum class Role {
  header,
  library,  ///< has a library's name
  source,   ///< a C, C++ or assembly source that could be part of the library
  licence,
  debug,  ///< debugging records beside a library or program
  data,   ///< read at run time
  sample,
  test,
  document,
  foreign,   ///< of another library that came along
  unwanted,  ///< a version-control store
  debris,    ///< of packers, editors and other systems
  other,
};

/// Names of folders, in small letters, that headers show to be the library's own, whatever they are called: what lies
/// below a folder called include is included by their name, or they have such a folder themselves, or are at the top
/// and called like their header and the library.
std::set<std::string> own_folder_names(const std::vector<std::filesystem::path>& files, const std::string& library);

/// `file` is relative to the library's folder; `own` as above.
Role role_of(const std::string& file, const std::set<std::string>& own = {});

bool is_source_name(const std::string& file);

}  // namespace fibula
