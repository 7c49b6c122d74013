#include "binary/gcc_lto.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <map>

namespace fibula::gcc_lto {
namespace {

/// enum ld_plugin_symbol_kind and ld_plugin_symbol_visibility (binutils, include/plugin-api.h).
constexpr uint8_t weak_definition = 1, undefined = 2, weak_undefined = 3, common = 4;
constexpr Visibility visibilities[] = {Visibility::normal, Visibility::protected_, Visibility::internal,
                                       Visibility::hidden};

}  // namespace

Result<void> read_symbols(Bytes table, Order order, Image& image) {
  Cursor c(table, order, "link-time symbol table");
  std::map<std::string_view, int32_t> groups;
  for (size_t i = 0; i < image.groups.size(); ++i) groups.emplace(image.groups[i], static_cast<int32_t>(i));
  while (c.left() > 0) {
    ImageSymbol symbol;
    symbol.name = c.c_string();
    const auto group = c.c_string();
    const uint8_t kind = c.u8(), visibility = c.u8();
    symbol.size = c.u64();
    symbol.index = c.u32();
    if (!c) return fail(c.error());
    symbol.defined = kind != undefined && kind != weak_undefined;
    symbol.common = kind == common;
    symbol.binding = kind == weak_definition || kind == weak_undefined ? Binding::weak : Binding::global;
    symbol.visibility = visibilities[visibility & 3U];
    if (!group.empty() && symbol.defined) {
      const auto [found, added] = groups.emplace(group, static_cast<int32_t>(image.groups.size()));
      if (added) image.groups.push_back(group);
      symbol.group = found->second;
    }
    if (!symbol.name.empty()) image.symbols.push_back(symbol);
  }
  return {};
}

Result<LinkTimeMark> read_header(Bytes section, Order order) {
  Cursor c(section, order, "link-time header");
  const uint16_t major = c.u16(), minor = c.u16();
  const uint8_t slim = c.u8();
  if (!c) return fail(c.error());
  return LinkTimeMark{
      .maker = LinkTimeMark::Maker::gcc, .version = fmt::format("{}.{}", major, minor), .machine_code = slim == 0};
}

}  // namespace fibula::gcc_lto
