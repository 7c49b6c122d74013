/// The inputs of one link, in order: what the program uses, put in an order that works, completed with what the system
/// has, and without what nothing needs.
#pragma once

#include "link/derivation.hpp"
#include "link/order.hpp"

namespace fibula {

/// A library file on its way to the line, and whose it is.
struct Candidate {
  std::filesystem::path path;
  std::string library;
  std::string why = {};                     ///< of what was derived; empty: the output uses it
  std::vector<std::string> arguments = {};  ///< empty: by its path
  bool derived = false;
  bool several = false;  ///< one of several files of a library
  bool named = false;    ///< the one of them that has the library's name
};

/// What a line is made for.
struct LineQuestion {
  const Toolchain& toolchain;
  std::string output;
  std::vector<std::filesystem::path> objects;  ///< of the program, when they are there
  std::vector<std::filesystem::path> pending;  ///< objects of the project's own libraries that are not archived yet
  StandIn stand_in;                            ///< in place of the objects
  bool allow_unresolved = false;
  std::vector<std::string> script_symbols = {};  ///< that the program's own linker script defines
};

struct BuiltLine {
  std::vector<LinkInput> inputs;
  std::vector<LinkInput> left_out;  ///< files that the output was to use, and that nothing in it needs
  Rehearsal rehearsal;              ///< of the line
  std::vector<Ambiguity> ambiguities;
};

/// Errors: those of a damaged file.
Result<BuiltLine> build_line(FileStore& files, ProviderStore& providers, const LineQuestion& question,
                             std::vector<Candidate> candidates, std::map<std::filesystem::path, NeedyLibrary> needy);

}  // namespace fibula
