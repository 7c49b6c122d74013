#include "report/added_bytes.hpp"

#include "binary/elf.hpp"
#include "binary/open.hpp"

#include <fibula/facts.hpp>
#include <fibula/symbols.hpp>

#include <algorithm>
#include <map>
#include <unordered_map>

namespace fibula {
namespace {

/// The library that defines each name, as the linker would find it: the first input that does.
std::unordered_map<std::string, std::string> definers(const OutputLink& link) {
  std::unordered_map<std::string, std::string> found;
  for (const auto& input : link.inputs) {
    if (input.path.empty() || !has_library_name(input.path)) continue;
    (void)visit_symbols(input.path, [&](const SymbolView& symbol) {
      if (symbol.defines && symbol.binding != Binding::local)
        found.try_emplace(std::string(symbol.name), input.library);
    });
  }
  return found;
}

/// Names and sizes of a linked file's own table; of other formats than ELF, which have no sizes there, none.
std::vector<std::pair<std::string, uint64_t>> sizes_in(const std::filesystem::path& product) {
  std::vector<std::pair<std::string, uint64_t>> sizes;
  const auto file = MappedFile::open(product);
  if (!file || !elf::recognises((*file)->bytes())) return sizes;
  (void)elf::walk_own_table((*file)->bytes(), [&](const ImageSymbol& symbol) {
    const bool counts = symbol.kind == SymbolKind::function || symbol.kind == SymbolKind::data;
    if (symbol.defined && counts && symbol.size > 0) sizes.emplace_back(symbol.name, symbol.size);
  });
  return sizes;
}

}  // namespace

std::vector<AddedBytes> added_bytes(const Project& project, const Fit& fit, const Output& output) {
  const OutputLink* link = fit.link(output.name);
  if (link == nullptr) return {};
  const auto sizes = sizes_in(project.product_of(fit.lane, fit.toolchain, output));
  if (sizes.empty()) return {};
  const auto owners = definers(*link);
  std::map<std::string, uint64_t> sums;
  for (const auto& library : fit.libraries) {
    if (library.linkage == Linkage::static_) sums[library.name] = 0;
  }
  for (const auto& [name, size] : sizes) {
    const auto owner = owners.find(name);
    sums[owner == owners.end() ? std::string() : owner->second] += size;
  }
  std::vector<AddedBytes> added;
  for (const auto& [library, bytes] : sums) added.push_back({fit.lane.name, output.name, library, bytes});
  std::stable_sort(added.begin(), added.end(),
                   [](const AddedBytes& a, const AddedBytes& b) { return a.bytes > b.bytes; });
  return added;
}

}  // namespace fibula
