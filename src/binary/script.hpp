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

/// The names that a script for the layout of a program gives values: what stands before `=`, in PROVIDE or plainly (GNU
/// ld manual, "Assigning Values to Symbols"). Comments are passed over; included scripts are not followed.
std::vector<std::string> assigned_symbols(std::string_view script);

}  // namespace fibula
