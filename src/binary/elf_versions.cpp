#include "binary/elf_versions.hpp"

#include <map>

namespace fibula::elf {
namespace {

constexpr uint16_t version_hidden = 0x8000, version_index = 0x7fff, version_base = 1;

/// Records that say how far away the next one is; zero ends them.
struct Chain {
  Bytes bytes;
  Order order;
  uint64_t at;     ///< of the first
  uint64_t count;  ///< at most
  uint64_t size;   ///< of a record; its last word is the distance
  std::string_view what;
};

void put(VersionNames& names, uint16_t index, std::string_view name) {
  if (index >= names.size()) names.resize(index + 1U);
  names[index] = name;
}

/// Visits the records of a chain: `visit(record, offset)` gives Result<void>.
template <class Visit>
Result<void> each_in(const Chain& chain, Budget& budget, const Visit& visit) {
  uint64_t at = chain.at;
  for (uint64_t i = 0; i < chain.count; ++i) {
    auto bytes = chain.bytes.slice(at, chain.size, chain.what);
    if (!bytes) return pass(bytes);
    if (!budget.spend(chain.size)) return fail(Budget::exceeded(*bytes, chain.what));
    const Record record(bytes->data(), chain.size, chain.order);
    if (auto visited = visit(record, at); !visited) return visited;
    const uint32_t next = record.u32(chain.size - 4);
    if (next == 0) break;
    at += next;
  }
  return {};
}

Result<std::string_view> name_at(const Versions& versions, uint32_t offset, Budget& budget) {
  auto name = versions.names.c_string(offset, "symbol version's name");
  if (name && !budget.spend(name->size())) return fail(Budget::exceeded(versions.names, "symbol version table"));
  return name;
}

}  // namespace

Result<void> read_needed_versions(const File& file, const Versions& versions, Image& image, VersionNames& names) {
  if (versions.count == 0 || versions.bytes.empty()) return {};
  Budget budget(file.bytes);
  std::map<std::string_view, Need*> needs;
  for (auto& need : image.needs) needs[need.name] = &need;
  const Chain files{versions.bytes, file.order, 0, versions.count, 16, "needed version"};
  return each_in(files, budget, [&](const Record& of_file, uint64_t at) -> Result<void> {
    auto library = name_at(versions, of_file.u32(4), budget);
    if (!library) return pass(library);
    const auto need = needs.find(*library);
    const Chain wanted{versions.bytes, file.order, at + of_file.u32(8), of_file.u16(2), 16, "needed version"};
    return each_in(wanted, budget, [&](const Record& version, uint64_t) -> Result<void> {
      auto name = name_at(versions, version.u32(8), budget);
      if (!name) return pass(name);
      put(names, version.u16(6) & version_index, *name);
      if (need != needs.end()) need->second->versions.emplace_back(*name);
      return {};
    });
  });
}

Result<void> read_defined_versions(const File& file, const Versions& versions, Image& image, VersionNames& names) {
  if (versions.count == 0 || versions.bytes.empty()) return {};
  Budget budget(file.bytes);
  const Chain defined{versions.bytes, file.order, 0, versions.count, 20, "defined version"};
  return each_in(defined, budget, [&](const Record& version, uint64_t at) -> Result<void> {
    // The first of the names that follow is the version's own, the others are those it builds upon.
    auto auxiliary = versions.bytes.from(at + version.u32(12), "defined version's name");
    if (!auxiliary) return pass(auxiliary);
    Cursor c(*auxiliary, file.order, "defined version's name");
    auto name = name_at(versions, c.u32(), budget);
    if (!c) return fail(c.error());
    if (!name) return pass(name);
    put(names, version.u16(4) & version_index, *name);
    if ((version.u16(2) & version_base) == 0) image.defined_versions.push_back(*name);
    return {};
  });
}

VersionTable::VersionTable(const Table& version_of, VersionNames names)
    : version_of_(version_of), names_(std::move(names)) {}

void VersionTable::apply(ImageSymbol& symbol) const {
  if (symbol.index >= version_of_.count()) return;
  const uint16_t entry = version_of_[symbol.index].u16(0);
  const uint16_t index = entry & version_index;
  // For what is only needed, index 0 says "no version": LLD writes it so.
  if (index == 0 && symbol.defined) symbol.binding = Binding::local;
  symbol.default_version = (entry & version_hidden) == 0;
  // A version has a symbol of its own name, which belongs to no version.
  if (index >= 2 && index < names_.size() && names_[index] != symbol.name) symbol.version = names_[index];
}

}  // namespace fibula::elf
