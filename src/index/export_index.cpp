#include "index/export_index.hpp"

#include "base/digest.hpp"
#include "facts/facts.hpp"

#include <bit>

namespace fibula {
namespace {

bool is_shown(const ImageSymbol& symbol) {
  return symbol.defined && is_global(symbol) && shows_outside(symbol);
}

}  // namespace

bool shows_outside(const ImageSymbol& symbol) {
  return symbol.visibility == Visibility::normal || symbol.visibility == Visibility::protected_;
}

bool is_exported(const ImageSymbol& symbol) {
  return is_shown(symbol) && symbol.default_version;
}

ExportIndex::ExportIndex(const Image& image)
    : dll_(image.target.format == Format::pe),
      symbols_(&image.dynamic_symbols),
      slots_(std::bit_ceil(2 * image.dynamic_symbols.size() + 1)) {
  const auto& symbols = *symbols_;
  const size_t mask = slots_.size() - 1;
  for (uint32_t i = 0; i < symbols.size(); ++i) {
    if (!is_shown(symbols[i])) continue;
    size_t slot = quick_digest(symbols[i].name) & mask;
    while (slots_[slot] != 0) slot = (slot + 1) & mask;
    slots_[slot] = i + 1;
  }
}

bool ExportIndex::find(std::string_view name, std::string_view version) const {
  const size_t mask = slots_.size() - 1;
  for (size_t slot = quick_digest(name) & mask; slots_[slot] != 0; slot = (slot + 1) & mask) {
    const ImageSymbol& symbol = (*symbols_)[slots_[slot] - 1];
    const bool serves = version.empty() ? symbol.default_version : version == any_version || symbol.version == version;
    if (serves && symbol.name == name) return true;
  }
  return false;
}

}  // namespace fibula
