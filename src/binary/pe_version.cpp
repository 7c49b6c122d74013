/// The version that a DLL or program says of itself (PE Format specification, "The .rsrc Section"; Windows API,
/// VS_VERSIONINFO and VS_FIXEDFILEINFO).
#include "binary/pe_image.hpp"

#include <fmt/format.h>

namespace fibula::pe {
namespace {

constexpr uint32_t is_folder = 0x80000000;

/// The offset behind the first entry of a resource folder, or behind the one with this number; 0 for none.
uint32_t entry_of(Bytes resources, uint32_t folder, std::optional<uint32_t> number) {
  auto bytes = resources.from(folder, "resource folder");
  if (!bytes) return 0;
  Cursor c(*bytes, Order::little, "resource folder");
  c.skip(12);
  const uint32_t count = uint32_t{c.u16()} + c.u16();  // those with names, then those with numbers
  for (uint32_t i = 0; i < count && c; ++i) {
    const uint32_t id = c.u32(), offset = c.u32();
    if (c && (!number || id == *number)) return offset;
  }
  return 0;
}

std::string version_text(uint32_t high, uint32_t low) {
  const std::string three = fmt::format("{}.{}.{}", high >> 16U, high & 0xffffU, low >> 16U);
  return (low & 0xffffU) == 0 ? three : fmt::format("{}.{}", three, low & 0xffffU);
}

}  // namespace

/// A resource that cannot be read says nothing: loaders do not look at it.
Recorded read_version(const File& file) {
  constexpr uint32_t rt_version = 16, signature = 0xfeef04bd;
  if (file.directories[dir_resource].address == 0) return {};
  const auto resources = file.at(file.directories[dir_resource].address, "resources");
  if (!resources) return {};
  const uint32_t type = entry_of(*resources, 0, rt_version);
  const uint32_t name = (type & is_folder) == 0 ? 0 : entry_of(*resources, type & ~is_folder, std::nullopt);
  const uint32_t language = (name & is_folder) == 0 ? 0 : entry_of(*resources, name & ~is_folder, std::nullopt);
  if (language == 0 || (language & is_folder) != 0) return {};
  const auto record = resources->slice(language, 16, "resource");
  if (!record) return {};
  const auto data = file.at(load<uint32_t>(record->data(), Order::little), "version resource");
  if (!data) return {};
  Cursor c(*data, Order::little, "version resource");
  c.skip(40);  // lengths, type, the key "VS_VERSION_INFO" in UTF-16, padding to a multiple of four
  const bool right = c.u32() == signature;
  c.skip(4);
  const uint32_t high = c.u32(), low = c.u32();
  if (!c || !right || (high | low) == 0) return {};
  return {version_text(high, low), "resources, VS_FIXEDFILEINFO"};
}

}  // namespace fibula::pe
