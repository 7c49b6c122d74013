/// Derives the line of a program and some libraries as fit does: their order, and what they need from the system; prints
/// the inputs, one a line, then on standard error what is left over. What bench/links.py measures.
/// usage: derive-line COMPILER OBJECT LIBRARY...
#include "fit/line_builder.hpp"

#include <iostream>

int main(int argc, char** argv) {
  using namespace fibula;
  if (argc < 4) return 2;
  const auto toolchain = ask({argv[1]});
  if (!toolchain) {
    std::cerr << render(toolchain.error()) << '\n';
    return 4;
  }
  std::vector<Candidate> candidates;
  for (int i = 3; i < argc; ++i) candidates.push_back({.path = argv[i], .library = argv[i]});
  FileStore files;
  ProviderStore providers;
  const auto line =
      build_line(files, providers, {.toolchain = *toolchain, .output = "program", .objects = {argv[2]}}, candidates, {});
  if (!line) {
    std::cerr << render(line.error()) << '\n';
    return 3;
  }
  for (const auto& input : line->inputs) std::cout << input.group << '\t' << input.arguments.front() << '\n';
  for (const auto& missing : line->rehearsal.unresolved) std::cerr << missing.symbol << '\n';
  return line->rehearsal.unresolved.empty() ? 0 : 1;
}
