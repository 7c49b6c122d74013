/// Rehearses, for each archive that is named, the link of a program with the whole of it, and prints every name that is
/// left undefined behind the archive's path: what scripts/compare_links.py compares with a linker.
/// usage: rehearse-whole COMPILER ARCHIVE...
#include "link/rehearsal.hpp"

#include <iostream>

int main(int argc, char** argv) {
  using namespace fibula;
  if (argc < 3) return 2;
  const auto toolchain = ask({argv[1]});
  if (!toolchain) {
    std::cerr << render(toolchain.error()) << '\n';
    return 4;
  }
  StandIn program;
  program.defines = {"main", "_main"};  // the second is how 32-bit Windows spells it
  for (int i = 2; i < argc; ++i) {
    FileStore files;
    const auto line = whole_line(
        *toolchain,
        {{LinkStep::Kind::whole_archive}, {LinkStep::Kind::file, argv[i]}, {LinkStep::Kind::no_whole_archive}});
    const auto rehearsal = rehearse(files, line, {.stand_in = &program});
    if (!rehearsal) {
      std::cout << argv[i] << "\t!" << render(rehearsal.error()) << '\n';
      continue;
    }
    std::cout << argv[i] << "\t\n";
    for (const auto& missing : rehearsal->unresolved) std::cout << argv[i] << '\t' << missing.symbol << '\n';
  }
}
