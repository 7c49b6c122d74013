/// Derives the line of a program and some libraries as fit does: their order, and what they need from the system;
/// prints the inputs, one a line, then on standard error what is left over. With --as-given the libraries are rehearsed
/// in the order given, as the input of `--start-group`s where a word is `(` or `)`. What bench/links.py measures.
/// usage: derive-line [--as-given] COMPILER OBJECT LIBRARY...
#include "link/line_builder.hpp"

#include <iostream>
#include <span>

namespace {

using namespace fibula;

int tell(const Rehearsal& rehearsal, FileStore& files) {
  for (const auto& missing : rehearsal.unresolved) std::cerr << missing.symbol << '\n';
  std::cout << "names\t" << files.names().size() << '\n';
  return rehearsal.unresolved.empty() ? 0 : 1;
}

int fail_with(const Error& error, int status) {
  std::cerr << render(error) << '\n';
  return status;
}

int rehearse_as_given(const Toolchain& toolchain, std::span<char*> words) {
  std::vector<LinkStep> steps;
  for (const std::string word : words) {
    if (word == "(") {
      steps.push_back({LinkStep::Kind::group_begin});
    } else if (word == ")") {
      steps.push_back({LinkStep::Kind::group_end});
    } else if (word.starts_with("-l")) {
      steps.push_back({LinkStep::Kind::library, word.substr(2)});
    } else {
      steps.push_back({LinkStep::Kind::file, word});
    }
  }
  FileStore files;
  const auto rehearsal = rehearse(files, whole_line(toolchain, steps));
  return rehearsal ? tell(*rehearsal, files) : fail_with(rehearsal.error(), 3);
}

int derive(const Toolchain& toolchain, const char* object, std::span<char*> libraries) {
  std::vector<Candidate> candidates;
  for (const char* library : libraries) candidates.push_back({.path = library, .library = library});
  FileStore files;
  ProviderStore providers(Cache::standard());
  const auto line =
      build_line(files, providers, {.toolchain = toolchain, .output = "program", .objects = {object}}, candidates, {});
  if (!line) return fail_with(line.error(), 3);
  for (const auto& input : line->inputs) std::cout << input.group << '\t' << input.arguments.front() << '\n';
  return tell(line->rehearsal, files);
}

}  // namespace

int main(int argc, char** argv) {
  std::span<char*> words(argv + 1, static_cast<size_t>(argc - 1));
  const bool as_given = !words.empty() && std::string_view(words[0]) == "--as-given";
  if (as_given) words = words.subspan(1);
  if (words.size() < 3) return 2;
  const auto toolchain = fibula::ask({words[0]});
  if (!toolchain) return fail_with(toolchain.error(), 4);
  return as_given ? rehearse_as_given(*toolchain, words.subspan(1)) : derive(*toolchain, words[1], words.subspan(2));
}
