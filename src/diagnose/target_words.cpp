#include "diagnose/target_words.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <vector>

namespace fibula {
namespace {

/// A word in a path or a triple, and what it stands for.
struct Word {
  std::string_view word, meaning;
};

constexpr Word systems_in_paths[] = {{"linux", "linux"},   {"darwin", "macos"},    {"macos", "macos"},
                                     {"osx", "macos"},     {"mac", "macos"},       {"ios", "ios"},
                                     {"win", "windows"},   {"win32", "windows"},   {"win64", "windows"},
                                     {"mingw", "windows"}, {"windows", "windows"}, {"android", "android"}};
constexpr Word systems_in_triples[] = {{"android", "android"}, {"linux", "linux"},  {"mingw", "windows"},
                                       {"windows", "windows"}, {"darwin", "macos"}, {"apple", "macos"}};
constexpr Word machines[] = {{"x64", "x86_64"},  {"amd64", "x86_64"},   {"ia32", "x86"},      {"x86", "x86"},
                             {"i386", "x86"},    {"i686", "x86"},       {"arm64", "aarch64"}, {"aarch64", "aarch64"},
                             {"arm", "arm"},     {"armhf", "arm"},      {"armv7", "arm"},     {"ppc64", "ppc64"},
                             {"s390x", "s390x"}, {"riscv64", "riscv64"}};

std::vector<std::string> words_of(std::string path) {
  path = text::lower(path);
  for (size_t at = path.find("x86_64"); at != std::string::npos; at = path.find("x86_64", at))
    path.replace(at, 6, "x64");
  for (char& c : path) {
    if (!text::is_identifier_character(c) || c == '_') c = ' ';
  }
  std::vector<std::string> words;
  for (const auto word : text::words(path)) words.emplace_back(word);
  return words;
}

/// Whether the words name some of a kind, and not the one that is meant.
template <size_t count>
bool names_others(const std::vector<std::string>& words, const Word (&rows)[count], std::string_view meant) {
  bool others = false;
  for (const auto& word : words) {
    for (const auto& row : rows) {
      if (row.word != word) continue;
      if (row.meaning == meant) return false;
      others = true;
    }
  }
  return others;
}

}  // namespace

bool names_another_target(const std::string& path, const std::string& triple, Arch arch) {
  const auto* system = std::find_if(std::begin(systems_in_triples), std::end(systems_in_triples),
                                    [&](const Word& row) { return triple.find(row.word) != std::string::npos; });
  const auto words = words_of(path);
  return (system != std::end(systems_in_triples) && names_others(words, systems_in_paths, system->meaning)) ||
         names_others(words, machines, to_string(arch));
}

}  // namespace fibula
