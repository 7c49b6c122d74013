#pragma once

#include "binary/image.hpp"

#include <cstdint>
#include <string_view>
#include <vector>

namespace fibula {

/// The names that a shared library shows to its users, for looking up one at a time: a link asks for few of them.
class ExportIndex {
 public:
  explicit ExportIndex(const Image& image);
  bool of_dll() const { return dll_; }
  bool contains(std::string_view name) const { return find(name, {}); }
  /// Whether it defines any version of a name.
  bool contains_any(std::string_view name) const { return find(name, any_version); }
  /// Whether it defines this very version of a name, the default one or not.
  bool contains(std::string_view name, std::string_view version) const { return find(name, version); }

 private:
  static constexpr std::string_view any_version = "*";
  bool find(std::string_view name, std::string_view version) const;

  bool dll_;
  const std::vector<ImageSymbol>* symbols_;
  std::vector<uint32_t> slots_;  ///< positions in the symbols, plus one; open addressing, at most half full
};

/// Whether a symbol's visibility lets other files of a program see it.
bool shows_outside(const ImageSymbol& symbol);
/// Whether a shared library shows a symbol to those that name no version.
bool is_exported(const ImageSymbol& symbol);

}  // namespace fibula
