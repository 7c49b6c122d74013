#include "compare/side.hpp"

#include "base/text.hpp"
#include "base/version.hpp"
#include "binary/open.hpp"
#include "facts/library_name.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"
#include "stage/staged_list.hpp"

#include <fibula/symbols.hpp>
#include <fibula/take.hpp>

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

std::string named(const Card& card) {
  return card.version.empty() || card.version == "0" ? card.name : card.name + " " + card.version;
}

Result<ComparedSide> side_of_path(const fs::path& path) {
  ComparedSide side;
  side.shown = path.string();
  if (stamp_of(path).is_file()) {
    side.card.root = absolute_path(path).parent_path();
    side.single = path.filename().string();
    return side;
  }
  if (stamp_of(path / staged_list_name).is_file()) {
    side.staged = absolute_path(path).string();
    return side;
  }
  auto described = describe(path);
  if (!described) return pass(described);
  side.card = std::move(described->card);
  return side;
}

Result<Card> card_named(const std::string& name, const std::string& version, const Shelf& shelf) {
  if (!version.empty()) return shelf.card(name, version);
  auto versions = shelf.versions(name);
  if (!versions) return pass(versions);
  if (!versions->empty()) return std::move(versions->front());
  const std::string meant = text::closest(name, shelf.names());
  return fail({.code = Code::absent,
               .what = fmt::format("{} is no file, no folder and no library on the shelf", name),
               .hint = meant.empty() ? "fibula shelf lists what is there; a version is named as NAME/VERSION"
                                     : fmt::format("did you mean {}?", meant)});
}

/// Names of the C++ library's own templates, which every program has itself.
bool is_of_the_language(std::string_view name) {
  for (const std::string_view start : {"_ZNSt", "_ZNKSt", "_ZSt", "_ZTISt", "_ZTSSt", "_ZTVSt", "_ZN9__gnu_cxx",
                                       "_ZNK9__gnu_cxx", "_ZGVNSt", "_ZZNSt"}) {
    if (name.starts_with(start)) return true;
  }
  return false;
}

}  // namespace

Result<ComparedSide> find_side(const std::string& word, const std::string& other, const Shelf& shelf) {
  if (word.empty()) return fail({.code = Code::usage, .what = "nothing to compare is named"});
  if (stamp_of(word).there()) return side_of_path(word);
  const size_t slash = word.rfind('/');
  std::string name = word.substr(0, slash);
  std::string version = slash == std::string::npos ? std::string() : word.substr(slash + 1);
  const bool only_version = slash == std::string::npos && word[0] >= '0' && word[0] <= '9' && !other.empty();
  if (only_version) {
    version = word;
    name = other.substr(0, other.rfind('/'));
  }
  auto card = card_named(name, version, shelf);
  if (!card) {
    if (slash != std::string::npos && card.error().code == Code::absent)
      card.error().hint = "it is no file and no folder either; fibula shelf lists the versions that are there";
    return pass(card);
  }
  if (auto here = shelf.bring(*card); !here) return pass(here);
  ComparedSide side;
  side.shown = named(*card);
  side.card = std::move(*card);
  return side;
}

Result<ComparedBinary> read_binary(const fs::path& root, const std::string& file) {
  ComparedBinary binary{.path = root / file, .shown = file};
  auto facts = inspect(binary.path);
  if (!facts) return pass(facts);
  binary.facts = std::move(*facts);
  auto visited = visit_symbols(binary.path, [&](const SymbolView& symbol) {
    const bool hidden = symbol.visibility == Visibility::hidden || symbol.visibility == Visibility::internal;
    if (!symbol.defines || symbol.binding == Binding::local || (hidden && binary.is_shared())) return;
    const bool weak = symbol.binding == Binding::weak || symbol.binding == Binding::unique;
    if (weak && is_of_the_language(symbol.name)) return;
    binary.symbols.push_back({std::string(symbol.name), std::string(symbol.version), symbol.kind, weak, symbol.size});
  });
  if (!visited) return pass(visited);
  const auto key = [](const ExportedSymbol& symbol) { return std::tie(symbol.name, symbol.version); };
  std::sort(binary.symbols.begin(), binary.symbols.end(),
            [&](const auto& a, const auto& b) { return key(a) < key(b); });
  binary.symbols.erase(std::unique(binary.symbols.begin(), binary.symbols.end(),
                                   [&](const auto& a, const auto& b) { return key(a) == key(b); }),
                       binary.symbols.end());
  for (const auto& symbol : binary.symbols) {
    if (!symbol.version.empty()) binary.version_names.push_back(symbol.version);
  }
  std::sort(binary.version_names.begin(), binary.version_names.end());
  binary.version_names.erase(std::unique(binary.version_names.begin(), binary.version_names.end()),
                             binary.version_names.end());
  std::erase_if(binary.symbols, [&](const ExportedSymbol& symbol) {
    return std::binary_search(binary.version_names.begin(), binary.version_names.end(), symbol.name);
  });
  const auto mapping = MappedFile::open(binary.path);
  if (!mapping) return binary;
  auto types = debug_types_of((*mapping)->bytes());
  if (types) binary.types = std::move(*types);
  return binary;
}

namespace {

const std::vector<std::string>& files_of(const Variant& variant) {
  return variant.linkage == Linkage::shared && !variant.runtime.empty() ? variant.runtime : variant.link;
}

/// The variant of the other version that a program would get instead: for the same machine and run-time, and of the
/// same configuration where there is one.
const Variant* partner(const Variant& of, const Card& card) {
  const Variant* best = nullptr;
  int score = -1;
  for (const auto& other : card.variants) {
    if (!(other.target == of.target) || other.linkage != of.linkage) continue;
    if (other.fact("c-runtime") != of.fact("c-runtime") && !of.fact("c-runtime").empty() &&
        !other.fact("c-runtime").empty())
      continue;
    const int now = (other.id == of.id ? 4 : 0) + (other.configuration == of.configuration ? 2 : 0) +
                    (other.fact("string-abi") == of.fact("string-abi") ? 1 : 0);
    if (now > score) {
      score = now;
      best = &other;
    }
  }
  return best;
}

std::string stem(const std::string& file) {
  return text::lower(library_stem(file));
}

void pair_files(const Variant& one, const Variant& other, VariantPair& pair, Differences& unpaired) {
  const auto &before = files_of(one), &after = files_of(other);
  if (before.size() == 1 && after.size() == 1) {
    pair.files.emplace_back(before.front(), after.front());
    return;
  }
  for (const auto& file : before) {
    const auto found = std::find_if(after.begin(), after.end(), [&](const auto& f) { return stem(f) == stem(file); });
    if (found != after.end()) {
      pair.files.emplace_back(file, *found);
      continue;
    }
    unpaired.push_back({.kind = DifferenceKind::file,
                        .how = Alteration::removed,
                        .name = file,
                        .file = file,
                        .effect = Effect::built,
                        .why = "the second has no library of this name for " + one.id});
  }
}

}  // namespace

PairedVariants pair_variants(const ComparedSide& first, const ComparedSide& second) {
  PairedVariants pairing;
  if (!first.single.empty()) {
    pairing.pairs.push_back({.files = {{first.single, second.single}}});
    return pairing;
  }
  for (const auto& variant : first.card.variants) {
    const Variant* other = partner(variant, second.card);
    if (other == nullptr) {
      pairing.unpaired.push_back({.kind = DifferenceKind::variant,
                                  .how = Alteration::removed,
                                  .name = variant.id,
                                  .effect = variant.linkage == Linkage::static_ ? Effect::source : Effect::built,
                                  .why = variant.linkage == Linkage::static_
                                             ? "the second has no build like it: whoever links it needs another one"
                                             : "the second has no build like it"});
      continue;
    }
    VariantPair pair{.variant = variant.id, .shared = variant.linkage == Linkage::shared};
    pair_files(variant, *other, pair, pairing.unpaired);
    pairing.pairs.push_back(std::move(pair));
  }
  for (const auto& variant : second.card.variants) {
    if (partner(variant, first.card) == nullptr)
      pairing.unpaired.push_back({.kind = DifferenceKind::variant,
                                  .how = Alteration::added,
                                  .name = variant.id,
                                  .why = "the first has no build like it"});
  }
  return pairing;
}

}  // namespace fibula
