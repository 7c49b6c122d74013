/// What a file of a download is there for, by its name and the folders it lies in. Whether a library is one is read
/// from its bytes later.
#pragma once

#include <string>

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

/// `file` is relative to the library's folder.
Role role_of(const std::string& file);

bool is_source_name(const std::string& file);

}  // namespace fibula
