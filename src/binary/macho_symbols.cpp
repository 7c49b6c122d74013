/// The symbol table (nlist.h) and the export trie (mach-o/loader.h, "dyld_info_command") of a Mach-O file.
#include "binary/macho_file.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula::macho {
namespace {

constexpr uint8_t n_stab = 0xe0, n_private = 0x10, n_type = 0x0e, n_external = 0x01;
constexpr uint8_t type_undefined = 0x0, type_section = 0xe, type_prebound = 0xc, type_indirect = 0xa;
constexpr uint8_t stab_object = 0x66;  // N_OSO
constexpr uint16_t weak_reference = 0x40, weak_definition = 0x80;
constexpr uint32_t two_level = 0x80;  // MH_TWOLEVEL
constexpr uint32_t mh_object = 1;

SymbolKind kind_in(const File& file, uint8_t section) {
  if (section == 0 || section > file.sections.size()) return SymbolKind::none;
  const uint32_t flags = file.sections[section - 1U].flags, type = flags & 0xff;
  if (type >= 0x11 && type <= 0x13) return SymbolKind::thread_local_;
  constexpr uint32_t instructions = 0x80000400;  // S_ATTR_PURE_INSTRUCTIONS, S_ATTR_SOME_INSTRUCTIONS
  return (flags & instructions) != 0 ? SymbolKind::function : SymbolKind::data;
}

/// The library that a two-level reference names, counted from one (GET_LIBRARY_ORDINAL).
std::string_view library_at(const std::vector<Need>& needs, uint64_t ordinal) {
  return ordinal == 0 || ordinal > needs.size() ? std::string_view() : std::string_view(needs[ordinal - 1].name);
}

ImageSymbol symbol_of(const File& file, const Record& r, const std::vector<Need>& needs) {
  const uint8_t type = r.u8(4), section = r.u8(5);
  const uint16_t description = r.u16(6);
  const uint64_t value = r.word(8, file.wide);
  ImageSymbol symbol{.value = value, .section = section};
  const uint8_t kind = type & n_type;
  const bool undefined = kind == type_undefined || kind == type_prebound;
  symbol.common = kind == type_undefined && value != 0 && file.file_type == mh_object;
  symbol.size = symbol.common ? value : 0;
  symbol.defined = !undefined || symbol.common;
  if ((type & n_private) != 0) symbol.visibility = Visibility::hidden;
  if ((description & (symbol.defined ? weak_definition : weak_reference)) != 0) symbol.binding = Binding::weak;
  if (kind == type_section) symbol.kind = kind_in(file, section);
  if (symbol.common) symbol.kind = SymbolKind::data;
  if (kind == type_indirect) symbol.kind = SymbolKind::indirect;
  const bool two = (file.flags & two_level) != 0;
  if (!symbol.defined && two) symbol.library = library_at(needs, description >> 8U);
  return symbol;
}

Result<Bytes> trie_of(const File& file) {
  for (const auto& command : file.commands) {
    Cursor c = file.cursor(command);
    if (command.kind == lc_dyld_info || command.kind == lc_dyld_info_only) {
      c.skip(32);  // rebase, bind, weak bind and lazy bind
    } else if (command.kind != lc_exports_trie) {
      continue;
    }
    const uint32_t offset = c.u32(), size = c.u32();
    if (!c) return fail(c.error());
    return file.bytes.slice(offset, size, "export trie");
  }
  return Bytes();
}

/// A walk over a trie whose nodes may point anywhere: each node is entered once, and the names together stay within a
/// bound, since a crafted trie could spell very many long ones.
class TrieWalk {
 public:
  TrieWalk(Bytes trie, const std::vector<Need>& needs, const SymbolSink& sink)
      : trie_(trie), needs_(needs), sink_(sink), seen_(trie.size()), budget_(trie) {}

  Result<void> run() {
    pending_.push_back({0, ""});
    while (!pending_.empty()) {
      const Node node = std::move(pending_.back());
      pending_.pop_back();
      if (auto entered = enter(node); !entered) return entered;
    }
    return {};
  }

 private:
  struct Node {
    uint64_t at;
    std::string name;
  };

  Result<void> enter(const Node& node) {
    if (node.at >= trie_.size()) {
      return fail(trie_.error(Code::malformed, 0,
                              fmt::format("export trie has a node at {}, it has {} bytes", node.at, trie_.size())));
    }
    if (seen_[node.at]) return fail(trie_.error(Code::malformed, node.at, "export trie leads to the same node twice"));
    seen_[node.at] = true;
    Cursor c(*trie_.from(node.at, "export trie"), Order::little, "export trie");
    const uint64_t terminal = c.uleb128(), children_at = c.position() + terminal;
    if (terminal > c.left())
      return fail(trie_.error(Code::truncated, node.at, "node of the export trie ends beyond it"));
    if (terminal != 0 && !node.name.empty()) give(c, node.name);
    if (!c) return fail(c.error());
    return enter_children(node, children_at);
  }

  void give(Cursor c, const std::string& name) {
    constexpr uint64_t weak = 4, re_export = 8;
    const uint64_t flags = c.uleb128();
    ImageSymbol symbol{.name = name, .defined = true};
    symbol.binding = (flags & weak) != 0 ? Binding::weak : Binding::global;
    symbol.kind = (flags & 3U) == 1 ? SymbolKind::thread_local_ : SymbolKind::none;
    if ((flags & re_export) != 0) {
      symbol.kind = SymbolKind::indirect;
      symbol.library = library_at(needs_, c.uleb128());
    } else {
      symbol.value = c.uleb128();
    }
    sink_(symbol);
  }

  Result<void> enter_children(const Node& node, uint64_t offset) {
    auto rest = trie_.from(node.at + offset, "export trie");
    if (!rest) return pass(rest);
    Cursor c(*rest, Order::little, "export trie");
    const uint8_t count = c.u8();
    const size_t first = pending_.size();
    for (uint8_t i = 0; i < count; ++i) {
      const auto edge = c.c_string();
      const uint64_t at = c.uleb128();
      if (!c) return fail(c.error());
      const uint64_t length = node.name.size() + edge.size();
      if (!budget_.spend(length)) return fail(Budget::exceeded(trie_, "export trie"));
      pending_.push_back({at, node.name + std::string(edge)});
    }
    std::reverse(pending_.begin() + static_cast<std::ptrdiff_t>(first),
                 pending_.end());  // names come in the trie's order
    return {};
  }

  Bytes trie_;
  const std::vector<Need>& needs_;
  const SymbolSink& sink_;
  std::vector<bool> seen_;
  Budget budget_;
  std::vector<Node> pending_;
};

}  // namespace

Result<void> walk_symbols(const File& file, const std::vector<Need>& needs, const SymbolSink& sink,
                          std::vector<std::string_view>* debug_files) {
  const Command* command = file.first(lc_symtab);
  if (command == nullptr) return {};
  Cursor c = file.cursor(*command);
  const uint32_t at = c.u32(), count = c.u32(), strings_at = c.u32(), strings_size = c.u32();
  if (!c) return fail(c.error());
  const uint64_t size = file.wide ? 16 : 12;
  auto bytes = file.bytes.slice(at, count * size, "symbol table");
  if (!bytes) return pass(bytes);
  auto strings = file.bytes.slice(strings_at, strings_size, "string table");
  if (!strings) return pass(strings);
  auto table = Table::of(*bytes, size, size, file.order, "symbol table");
  if (!table) return pass(table);
  Budget budget(file.bytes);
  for (uint64_t i = 0; i < table->count(); ++i) {
    const Record r = (*table)[i];
    const uint8_t type = r.u8(4);
    const bool map = type == stab_object && debug_files != nullptr;
    if (!map && ((type & n_stab) != 0 || (type & n_external) == 0)) continue;
    const auto name = strings->terminated(r.u32(0));
    if (!name) {
      auto error = strings->c_string(r.u32(0), "symbol name");
      return pass(error);
    }
    if (!budget.spend(name->size())) return fail(Budget::exceeded(*bytes, "symbol table"));
    if (map) {
      debug_files->push_back(*name);
      continue;
    }
    ImageSymbol symbol = symbol_of(file, r, needs);
    symbol.name = *name;
    symbol.index = static_cast<uint32_t>(i);
    if (!symbol.name.empty()) sink(symbol);
  }
  return {};
}

Result<bool> walk_exports(const File& file, const std::vector<Need>& needs, const SymbolSink& sink) {
  auto trie = trie_of(file);
  if (!trie) return pass(trie);
  if (trie->empty()) return false;
  if (auto walked = TrieWalk(*trie, needs, sink).run(); !walked) return pass(walked);
  return true;
}

}  // namespace fibula::macho
