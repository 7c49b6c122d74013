/// What belongs to some of a library's variants only: include directories, debugging records.
#include "base/text.hpp"
#include "os/files.hpp"
#include "take/source.hpp"

#include <algorithm>
#include <set>

namespace fibula {
namespace {

bool lies_in(const std::string& folder, const std::string& file) {
  return folder.empty() || file.starts_with(folder + "/");
}

/// `x86_64-linux-gnu` of `usr/include/x86_64-linux-gnu`.
std::optional<Arch> arch_of_folder(const std::string& directory) {
  const auto name = fs::path(directory).filename().string();
  if (std::count(name.begin(), name.end(), '-') < 2) return std::nullopt;
  const Arch arch = target_of_triple(name).arch;
  return arch == Arch::unknown ? std::nullopt : std::optional(arch);
}

/// Whether a directory serves a variant: one that names a machine serves that machine's; one in a folder with some of
/// the binaries, such as a prefix for each machine, serves those.
bool serves(const std::string& directory, const Variant& variant, const std::vector<Variant>& all) {
  if (const auto arch = arch_of_folder(directory)) return *arch == variant.target.arch;
  const auto prefix = fs::path(directory).parent_path().generic_string();
  const auto beside = [&](const Variant& v) {
    return std::any_of(v.link.begin(), v.link.end(), [&](const std::string& file) { return lies_in(prefix, file); });
  };
  return beside(variant) || std::none_of(all.begin(), all.end(), beside);
}

}  // namespace

void part_include_directories(Card& card) {
  std::vector<std::string> common;
  for (const auto& directory : card.include_directories) {
    const auto for_it = [&](const Variant& variant) { return serves(directory, variant, card.variants); };
    const bool all = std::all_of(card.variants.begin(), card.variants.end(), for_it);
    if (all || std::none_of(card.variants.begin(), card.variants.end(), for_it)) {
      common.push_back(directory);
      continue;
    }
    for (auto& variant : card.variants) {
      if (for_it(variant)) variant.include_directories.push_back(directory);
    }
  }
  card.include_directories = std::move(common);
}

void add_debug_files(const Source& source, std::vector<Variant>& variants) {
  const auto stem = [](const std::string& file) {
    std::string name = fs::path(file).filename().string();
    return text::lower(name.substr(0, name.find('.')));
  };
  for (auto& variant : variants) {
    std::set<std::pair<std::string, std::string>> own;
    for (const auto* files : {&variant.link, &variant.runtime}) {
      for (const auto& file : *files) own.emplace(fs::path(file).parent_path().string(), stem(file));
    }
    for (const auto& file : source.debug) {
      if (own.contains({fs::path(file).parent_path().string(), stem(file)})) variant.debug.push_back(file);
    }
  }
}

}  // namespace fibula
