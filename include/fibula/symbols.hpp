/// Symbols: what a binary defines, and what it needs from others.
///
///     fibula::visit_symbols("lib/libtidecalc.a", [](const fibula::SymbolView& s) { if (s.defines) std::cout << s.name
///     << '\n'; });
#pragma once

#include <fibula/result.hpp>
#include <fibula/target.hpp>

#include <cstdint>
#include <filesystem>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

enum class Binding { local, global, weak, unique };
enum class Visibility { normal, protected_, hidden, internal };
enum class SymbolKind { none, function, data, thread_local_, indirect, section, file };
FIBULA_API std::string_view to_string(Binding binding);
FIBULA_API std::string_view to_string(Visibility visibility);
FIBULA_API std::string_view to_string(SymbolKind kind);

struct Symbol {
  std::string name;
  bool defines = false;  ///< false: it is needed
  Binding binding = Binding::global;
  Visibility visibility = Visibility::normal;
  SymbolKind kind = SymbolKind::none;
  uint64_t size = 0;
  uint64_t address = 0;      ///< of a definition in a linked ELF file; in an object, its place in the section
  std::string section = {};  ///< of a definition in an ELF file, where that has names of sections
  std::string version = {};
  std::string library = {};    ///< the run-time file that an import names, or a forwarder leads to
  std::string member = {};     ///< of an archive
  Arch slice = Arch::unknown;  ///< of a universal file or text stub
};

/// A symbol whose texts are lent for one call.
struct SymbolView {
  std::string_view name;
  bool defines = false;
  Binding binding = Binding::global;
  Visibility visibility = Visibility::normal;
  SymbolKind kind = SymbolKind::none;
  uint64_t size = 0;
  uint64_t address = 0;
  std::string_view section = {};
  std::string_view version = {};
  std::string_view library = {};
  std::string_view member = {};
  Arch slice = Arch::unknown;
};
using SymbolVisitor = std::function<void(const SymbolView&)>;

/// Every global symbol that a file defines or needs, in the file's order. Errors: as `inspect`.
FIBULA_API Result<std::vector<Symbol>> symbols_of(const std::filesystem::path& path);

/// The same, one at a time and without keeping any: what to use for large libraries. Gives the number of symbols.
/// Errors: as `inspect`; symbols before the damaged place were handed over.
FIBULA_API Result<uint64_t> visit_symbols(const std::filesystem::path& path, const SymbolVisitor& visitor);

/// The names in an archive's own symbol table (ar(5)), without looking at the members: what each defines, and the
/// offset of the member's header. Gives their number. Errors: as `inspect`; not_a_library when it is no archive.
using IndexVisitor = std::function<void(std::string_view name, uint64_t member)>;
FIBULA_API Result<uint64_t> visit_archive_index(const std::filesystem::path& path, const IndexVisitor& visitor);

/// A C++ name as people write it (Itanium C++ ABI, section 5.1), or the name itself when it is not mangled.
FIBULA_API std::string readable_name(std::string_view symbol);

}  // namespace fibula
