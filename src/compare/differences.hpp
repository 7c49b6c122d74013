/// How two versions differ, part by part. Each function adds what it finds; all are pure.
#pragma once

#include "binary/debug_types.hpp"
#include "compare/header_facts.hpp"

#include <fibula/compare.hpp>
#include <fibula/facts.hpp>
#include <fibula/symbols.hpp>

#include <set>
#include <string>
#include <vector>

namespace fibula {

struct ExportedSymbol {
  std::string name;
  std::string version;
  SymbolKind kind = SymbolKind::none;
  bool weak = false;
  uint64_t size = 0;
};

/// One binary of a version.
struct ComparedBinary {
  std::filesystem::path path;
  std::string shown;  ///< relative to the version's files
  Facts facts;
  std::vector<ExportedSymbol> symbols;     ///< that it gives to others, sorted by name and version
  std::vector<std::string> version_names;  ///< that it defines, sorted
  DebugTypes types;

  bool is_shared() const { return facts.kind.value == Kind::shared_library || facts.kind.value == Kind::plugin; }
};

/// A pair of things of one kind: of the first version, and of the second.
template <class T>
struct Both {
  const T& first;
  const T& second;
};

using Differences = std::vector<Difference>;

/// Symbols, their versions and sizes.
void compare_symbols(const Both<ComparedBinary>& binaries, const Both<HeaderFacts>& headers, Differences& into);
/// The machine, and what loaders read.
void compare_loading(const Both<ComparedBinary>& binaries, Differences& into);
/// Structures, classes, unions, enumerations, virtual tables, and what C functions take and give. `file`: where a
/// difference is said to be. `told`: names that were compared before, and are not again; those of now are added.
void compare_types(const Both<DebugTypes>& types, const Both<HeaderFacts>& headers, const std::string& file,
                   std::set<std::string>& told, Differences& into);
/// Headers, macros, declarations and default arguments.
void compare_headers(const Both<HeaderFacts>& headers, Differences& into);

/// The last part of a readable name: `harbour::Tide::height(int)` -> `height`.
std::string last_part(std::string_view readable);

}  // namespace fibula
