#include "compare/differences.hpp"

#include "base/text.hpp"
#include "facts/mangling.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {

std::string last_part(std::string_view readable) {
  std::string name = without_parameters(std::string(readable));
  for (const std::string_view start : {"vtable for ", "typeinfo for ", "typeinfo name for ", "VTT for "}) {
    if (name.starts_with(start)) name.erase(0, start.size());
  }
  // Arguments of a template belong to it.
  const size_t open = name.find('<');
  if (open != std::string::npos && !name.starts_with("operator")) name.erase(open);
  const size_t colon = name.rfind("::");
  if (colon != std::string::npos) name.erase(0, colon + 2);
  return !name.empty() && name[0] == '~' ? name.substr(1) : name;
}

namespace {

bool is_table(std::string_view name) {
  return name.starts_with("_ZTV") || name.starts_with("_ZTI") || name.starts_with("_ZTS") || name.starts_with("_ZTT");
}

class SymbolComparison {
 public:
  SymbolComparison(const Both<ComparedBinary>& binaries, const Both<HeaderFacts>& headers, Differences& into)
      : a_(binaries.first), b_(binaries.second), headers_(headers), into_(into) {}

  void run() {
    auto one = a_.symbols.begin();
    auto other = b_.symbols.begin();
    while (one != a_.symbols.end() || other != b_.symbols.end()) {
      const int order = one == a_.symbols.end() ? 1 : other == b_.symbols.end() ? -1 : one->name.compare(other->name);
      if (order < 0) {
        removed(*one++);
      } else if (order > 0) {
        add(DifferenceKind::symbol, Alteration::added, *other++, Effect::none, "new; programs do not ask for it");
      } else {
        same_name(one, other);
      }
    }
  }

 private:
  using Place = std::vector<ExportedSymbol>::const_iterator;

  /// Some header tells of it, or nobody knows what headers tell.
  bool is_known(const ExportedSymbol& symbol, const HeaderFacts& headers) const {
    return headers.mentions(last_part(readable_name(symbol.name)));
  }

  /// Its name stands in the headers once: nothing there calls it.
  bool is_only_declared(const ExportedSymbol& symbol) const {
    const std::string &text = headers_.first.text, name = last_part(readable_name(symbol.name));
    size_t times = 0;
    for (size_t at = text.find(name); at != std::string::npos; at = text.find(name, at + 1)) ++times;
    return times == 1;
  }

  void add(DifferenceKind kind, Alteration how, const ExportedSymbol& symbol, Effect effect, std::string why,
           std::string before = {}, std::string after = {}) {
    const std::string readable = readable_name(symbol.name);
    const bool gone = how == Alteration::removed;
    into_.push_back({.kind = kind,
                     .how = how,
                     .name = readable,
                     .file = gone ? a_.shown : b_.shown,
                     .before = std::move(before),
                     .after = std::move(after),
                     .effect = effect,
                     .why = std::move(why),
                     .seen_as = {symbol.name, last_part(readable)}});
  }

  void removed(const ExportedSymbol& symbol) {
    if (!is_known(symbol, headers_.first)) {
      add(DifferenceKind::symbol, Alteration::removed, symbol, Effect::none, "gone; no header of the first told of it");
    } else if (headers_.first.types.private_functions.contains(symbol.name) && is_only_declared(symbol)) {
      add(DifferenceKind::symbol, Alteration::removed, symbol, Effect::none,
          "gone; its class kept it private, and no header calls it");
    } else if (symbol.weak && symbol.name.starts_with("_Z")) {
      // What headers define inline, programs hold themselves; only what is promised elsewhere is asked for.
      const bool promised = headers_.first.there && headers_.first.text.find("extern template") != std::string::npos;
      add(DifferenceKind::symbol, Alteration::removed, symbol,
          promised || !headers_.first.there ? Effect::doubt : Effect::none,
          "gone; programs that were compiled with its headers hold it themselves, unless these promised it");
    } else {
      add(DifferenceKind::symbol, Alteration::removed, symbol, Effect::built,
          "gone; programs that ask for it are not linked, or do not start");
    }
  }

  /// All versions of one name on both sides.
  void same_name(Place& one, Place& other) {
    const Place first = one, second = other;
    const std::string& name = one->name;
    while (one != a_.symbols.end() && one->name == name) ++one;
    while (other != b_.symbols.end() && other->name == second->name) ++other;
    for (Place old = first; old != one; ++old) {
      const auto kept = std::find_if(second, other, [&](const ExportedSymbol& s) { return s.version == old->version; });
      if (kept == other) version_gone(*old, *second);
    }
    size_changed(*first, *second);
  }

  void version_gone(const ExportedSymbol& old, const ExportedSymbol& now) {
    // A loader takes any version for a name that asks for none, and any name of a library without versions.
    const bool missed = !old.version.empty() && !b_.version_names.empty();
    add(DifferenceKind::symbol_version, Alteration::changed, old, missed ? Effect::built : Effect::none,
        missed ? "programs ask for the version that they were linked with, and it is gone"
               : "loaders take it for the one that programs ask for",
        old.version.empty() ? "no version" : old.version, now.version.empty() ? "no version" : now.version);
  }

  void size_changed(const ExportedSymbol& old, const ExportedSymbol& now) {
    const bool data = old.kind == SymbolKind::data && now.kind == SymbolKind::data;
    if (!data || old.size == now.size || old.size == 0 || now.size == 0) return;
    const auto bytes = [](uint64_t size) { return text::count(size, "byte"); };
    Effect effect = Effect::none;
    std::string why = "no header tells of it";
    if (is_table(old.name)) {
      why = "the table of a class; how its functions moved decides";
      effect = is_known(old, headers_.first) ? Effect::doubt : Effect::none;
    } else if (!is_known(old, headers_.first)) {
      effect = Effect::none;
    } else if (a_.is_shared() && a_.facts.format.value == Format::elf) {
      effect = Effect::built;
      why = "programs keep room of the old size for it and the library uses that";
    } else {
      effect = Effect::doubt;
      why = "programs that were compiled with its old size use it by that";
    }
    add(DifferenceKind::data_size, Alteration::changed, old, effect, std::move(why), bytes(old.size), bytes(now.size));
  }

  const ComparedBinary& a_;
  const ComparedBinary& b_;
  const Both<HeaderFacts>& headers_;
  Differences& into_;
};

}  // namespace

void compare_symbols(const Both<ComparedBinary>& binaries, const Both<HeaderFacts>& headers, Differences& into) {
  SymbolComparison(binaries, headers, into).run();
}

}  // namespace fibula
