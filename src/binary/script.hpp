/// A linker script in place of a library (GNU ld manual, "Commands Dealing with Files"): text that names the real
/// files.
#pragma once

#include "base/bytes.hpp"

#include <string>
#include <vector>

namespace fibula {

struct ScriptInput {
  std::string name;        ///< a path, or `-lname`
  bool as_needed = false;  ///< only when it satisfies a reference
  bool group = false;      ///< searched again until nothing new is found
};

struct Script {
  std::vector<ScriptInput> inputs;
};

bool is_script(Bytes bytes);
/// Errors: malformed.
Result<Script> read_script(Bytes bytes);

}  // namespace fibula
