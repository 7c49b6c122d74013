/// Names in an archive, checked before anything is written under them.
#pragma once

#include <fibula/result.hpp>

#include <map>
#include <string>
#include <string_view>

namespace fibula {

/// `./lib//libtide.a` -> `lib/libtide.a`; empty for the folder itself. Errors: refused (absolute, `..`, a control
/// character, no UTF-8).
Result<std::string> safe_name(std::string_view name);

/// Where a link's target lies, from the root of the archive; `link` is the link's own safe name. With `rooted`, an
/// absolute target means the archive's root, as in the packages of systems. Errors: refused (it leads out).
Result<std::string> safe_target(std::string_view link, std::string_view target, bool rooted);

/// The names met so far. Two that differ only in the case of letters cannot both be kept everywhere.
class NameBook {
 public:
  enum class Entry { file, folder };
  /// A folder may be met many times. Errors: refused (the name is there already, in this or another case).
  Result<void> enter(const std::string& name, Entry entry = Entry::file);

 private:
  std::map<std::string, std::string> names_;  ///< by the name in lower case
};

}  // namespace fibula
