/// What loaders say of a program that does not start, before anything is looked up: glibc's, musl's, Windows' with its
/// stand-in, macOS', and the shells that start programs.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace fibula {

struct LoadComplaint {
  enum class Kind {
    missing,        ///< name: a file that is nowhere
    wrong_arch,     ///< name: a file for another machine
    unloadable,     ///< name: a file that is no library; detail: what the loader says of it
    version,        ///< name: the file; detail: the symbol version that it lacks
    symbol,         ///< name: the symbol; file: where it was looked for, if told
    no_loader,      ///< name: the program, whose own loader is not there
    other_machine,  ///< name: the program, which is for another machine
    permission,     ///< name: the program or library
    sanitizer,      ///< name: the sanitizer's run-time, which is not loaded first
    instruction,    ///< the processor does not know an instruction
  };
  Kind kind;
  std::string name;
  std::string user = {};  ///< who asks: a path, or as much of one as the loader prints
  std::string detail = {};
  std::string file = {};
  std::string program = {};  ///< where the loader names it beside the one who asks
};

/// Each complaint once, in order.
std::vector<LoadComplaint> load_complaints_in(std::string_view log);

}  // namespace fibula
