#include "take/folder_oddities.hpp"

#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// What a word in a path promises. A word is what stands between signs: `lib-x64/` holds `lib` and `x64`.
struct Promise {
  std::string_view word;
  Arch arch;
};

constexpr Promise arch_words[] = {
    {"x64", Arch::x86_64},      {"amd64", Arch::x86_64},    {"win64", Arch::x86_64}, {"x86_64", Arch::x86_64},
    {"x86", Arch::x86},         {"i386", Arch::x86},        {"i686", Arch::x86},     {"win32", Arch::x86},
    {"arm64", Arch::aarch64},   {"aarch64", Arch::aarch64}, {"armhf", Arch::arm},    {"armv7", Arch::arm},
    {"riscv64", Arch::riscv64},
};

std::vector<std::string> words_of(const std::string& path) {
  std::string spaced = text::lower(path);
  for (char& c : spaced) {
    if (!text::is_identifier_character(c)) c = ' ';
  }
  std::vector<std::string> words;
  for (const auto word : text::words(spaced)) {
    words.emplace_back(word);
    // `lib_x64_release`: an underscore parts words too, except in x86_64 itself.
    if (word == "x86_64") continue;
    for (const auto part : text::split(word, '_')) {
      if (part.size() != word.size()) words.emplace_back(part);
    }
  }
  return words;
}

bool has_arch(const Facts& facts, Arch wanted) {
  const auto is = [&](const Facts& one) {
    return one.arch.value == wanted ||
           (wanted == Arch::aarch64 && (one.arch.value == Arch::arm64e || one.arch.value == Arch::arm64ec));
  };
  return is(facts) || std::any_of(facts.slices.begin(), facts.slices.end(), is);
}

/// The first word decides: `win32` names the system as often as the machine, so it is heard only when no other word is.
void check_arch(const FolderBinary& binary, const std::vector<std::string>& words, std::vector<Oddity>& odd) {
  if (!binary.facts.arch && binary.facts.slices.empty()) return;
  const Promise* broken = nullptr;
  for (const auto& word : words) {
    const auto* row =
        std::find_if(std::begin(arch_words), std::end(arch_words), [&](const Promise& p) { return p.word == word; });
    if (row == std::end(arch_words)) continue;
    if (has_arch(binary.facts, row->arch)) return;
    if (broken == nullptr) broken = row;
  }
  if (broken == nullptr) return;
  odd.push_back({binary.path, fmt::format("is {}, though its path says {}", target_of(binary.facts), broken->word)});
}

/// What a word promises of the machine, whichever it is.
struct Width {
  std::string_view word;
  int bits;
};
constexpr Width width_words[] = {{"linux64", 64}, {"lib64", 64}, {"bin64", 64}, {"64bit", 64}, {"mac64", 64},
                                 {"linux32", 32}, {"lib32", 32}, {"bin32", 32}, {"32bit", 32}};

void check_width(const FolderBinary& binary, const std::vector<std::string>& words, std::vector<Oddity>& odd) {
  const auto& bits = binary.facts.bits;
  if (!bits) return;
  for (const auto& [word, promised] : width_words) {
    if (std::find(words.begin(), words.end(), word) == words.end() || static_cast<int>(*bits.value) == promised)
      continue;
    odd.push_back({binary.path, fmt::format("is {}, though its path says {}", target_of(binary.facts), word)});
    return;
  }
}

bool has_word(const std::vector<std::string>& words, std::string_view wanted) {
  return std::find(words.begin(), words.end(), wanted) != words.end();
}

void check_configuration(const FolderBinary& binary, const std::vector<std::string>& words, std::vector<Oddity>& odd) {
  const auto& fact = binary.facts.configuration;
  if (!fact) return;
  for (const auto& [word, other] : {std::pair{"release", "debug"}, {"debug", "release"}}) {
    if (has_word(words, word) && !has_word(words, other) && fact.value == other) {
      odd.push_back({binary.path, fmt::format("is a {} build, though its path says {} ({})", other, word, fact.from)});
    }
  }
}

void check_linkage(const FolderBinary& binary, const std::vector<std::string>& words, std::vector<Oddity>& odd) {
  const auto kind = binary.facts.kind.value;
  if (has_word(words, "static") && (kind == Kind::import_library || kind == Kind::shared_library)) {
    odd.push_back({binary.path, fmt::format("is {} library, though its path says static",
                                            kind == Kind::import_library ? "an import" : "a shared")});
  }
  const bool promised = has_word(words, "shared") || has_word(words, "dynamic");
  if (promised && kind == Kind::static_library)
    odd.push_back({binary.path, "is a static library, though its path says shared"});
}

/// Folders named after the compiler's options for the run-time.
void check_flavour(const FolderBinary& binary, const std::vector<std::string>& words, std::vector<Oddity>& odd) {
  static constexpr std::pair<std::string_view, std::string_view> flavours[] = {
      {"md", "msvc-dynamic"}, {"mdd", "msvc-dynamic-debug"}, {"mt", "msvc-static"}, {"mtd", "msvc-static-debug"}};
  const auto& fact = binary.facts.c_runtime;
  if (!fact || !fact.value->starts_with("msvc-")) return;
  for (const auto& [word, flavour] : flavours) {
    if (has_word(words, word) && fact.value != flavour)
      odd.push_back({binary.path, fmt::format("is for the run-time {}, though its path says {} ({})", *fact.value, word,
                                              fact.from)});
  }
}

}  // namespace

void add_oddities(const FolderBinary& binary, std::vector<Oddity>& odd) {
  const auto words = words_of(binary.path);
  check_arch(binary, words, odd);
  check_width(binary, words, odd);
  check_configuration(binary, words, odd);
  check_linkage(binary, words, odd);
  check_flavour(binary, words, odd);
  if (binary.facts.kind.value == Kind::empty) odd.push_back({binary.path, "is an archive without members"});
  for (const auto& note : binary.facts.notes) odd.push_back({binary.path, note});
}

void add_oddities_of_whole(FolderView& view) {
  const auto is_library = [](const FolderBinary& binary) {
    const auto kind = binary.facts.kind.value;
    return kind == Kind::static_library || kind == Kind::shared_library || kind == Kind::import_library ||
           kind == Kind::script || kind == Kind::empty;
  };
  const bool any = std::any_of(view.binaries.begin(), view.binaries.end(), is_library);
  if (!any && view.refused.empty() && view.sources.empty()) {
    for (const auto& folder : view.headers) {
      view.odd.push_back(
          {folder.path,
           "holds headers, and neither a library nor sources to them are in here: headers only, or half of "
           "the download"});
    }
  }
  if (any && view.headers.empty())
    view.odd.push_back({".", "there are libraries in here, and no header: what programs include is not among them"});
}

}  // namespace fibula
