/// Libraries that come as source: what is compiled into them, or which steps build them. A card's `[source]`.
#pragma once

#include <string>
#include <vector>

namespace fibula {

/// What goes into a library, for all builds or for some. Paths and patterns are relative to the library's files.
struct SourceSet {
  std::vector<std::string> compile = {};              ///< sources, by name or pattern: "src/**/*.c"
  std::vector<std::string> leave_out = {};            ///< of these, by name or pattern
  std::vector<std::string> include_directories = {};  ///< for its own sources, not for its users
  std::vector<std::string> definitions = {};          ///< for its own sources
  std::vector<std::string> user_definitions = {};     ///< for its own sources and its users
  std::vector<std::string> flags = {};                ///< for its own sources
  std::vector<std::string> user_flags = {};           ///< for its own sources and its users: "-pthread"
};

/// A set for builds in which everything that is named holds; of several names in one list, one must.
struct SourcePart {
  std::vector<std::string> archs = {};    ///< "x86_64"
  std::vector<std::string> systems = {};  ///< linux, windows, macos, bare-metal
  std::vector<std::string> formats = {};  ///< "elf"
  std::vector<std::string> lanes = {};
  std::vector<std::string> choices = {};  ///< "bus=twi"
  SourceSet set = {};
};

/// Something of which a project picks one: a bus, a back end.
struct SourceChoice {
  struct Alternative {
    std::string name;
    SourceSet set = {};
  };
  std::string name;
  std::string by_default;  ///< one of the alternatives
  std::vector<Alternative> alternatives = {};
};

/// A header that a configure step would have made. In its text `@bits@`, `@pointer-bytes@`, `@big-endian@` (1 or 0),
/// `@arch@`, `@system@`, `@version@`, `@major@`, `@minor@` and `@patch@` stand for what the lane and the card say.
struct SourceHeader {
  std::string path;  ///< as it is included: "config.h"
  std::string text;
  bool for_users = false;  ///< public headers include it
};

struct SourceCode : SourceSet {
  std::string standard = {};  ///< "c99"; empty: the compiler's own
  std::vector<SourcePart> parts = {};
  std::vector<SourceChoice> choices = {};
  std::vector<SourceHeader> headers = {};
  /// Its own build steps instead, each a line for the shell; see docs/files.md for the variables that they have.
  std::vector<std::string> steps = {};

  bool empty() const { return compile.empty() && parts.empty() && choices.empty() && steps.empty(); }
};

}  // namespace fibula
