/// Situations as tables: files, a command, how it ends and what is said.
#pragma once

#include "support/support.hpp"

#include <string>
#include <utility>
#include <vector>

namespace test {

using Files = std::vector<std::pair<const char*, std::string>>;

/// Both; later ones of a name win.
Files with(Files files, const Files& more);

/// The lines of a project for this machine's own compiler.
inline const std::string desk = "[lane.desk]\ncompiler = \"gcc\"\n";
inline const std::string one_program = "[[output]]\nname = \"p\"\nsources = [\"main.c\"]\n";

/// Into the working folder.
void write_all(const Workplace& place, const Files& files);

/// A project, a command for a shell in its folder with the tool as $FIBULA, how it ends and what is said.
struct Situation {
  const char* name;
  Files files;
  std::string command;
  int status;
  std::vector<const char*> says;
  std::vector<const char*> does_not_say = {};
};

void check(const std::vector<Situation>& situations);

}  // namespace test
