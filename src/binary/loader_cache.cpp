#include "binary/loader_cache.hpp"

#include <algorithm>

namespace fibula {
namespace {

constexpr std::string_view cache_magic = "glibc-ld.so.cache1.1", old_magic = "ld.so-1.7.0";
constexpr uint64_t cache_header_size = 48, entry_size = 24, old_entry_size = 12, old_header_size = 16;
constexpr uint64_t hwcap_extension = uint64_t{1} << 62U;
constexpr uint8_t big_endian = 3;

/// Where the new layout begins: behind the old one, rounded up to its own alignment, where that is in front.
Result<uint64_t> begin_of(Bytes bytes) {
  if (bytes.starts_with(cache_magic)) return uint64_t{0};
  auto header = bytes.slice(0, old_header_size, "loader cache's header");
  if (!header) return pass(header);
  const uint64_t count = load<uint32_t>(header->data() + 12, Order::little);
  return (old_header_size + count * old_entry_size + 7) / 8 * 8;
}

}  // namespace

bool is_loader_cache(Bytes bytes) {
  return bytes.starts_with(cache_magic) || bytes.starts_with(old_magic);
}

Result<std::vector<LoaderCacheEntry>> read_loader_cache(Bytes file) {
  auto begin = begin_of(file);
  if (!begin) return pass(begin);
  auto bytes = file.from(*begin, "loader cache");
  if (!bytes) return pass(bytes);
  auto header = bytes->slice(0, cache_header_size, "loader cache's header");
  if (!header) return pass(header);
  if (!header->starts_with(cache_magic))
    return fail(header->error(Code::malformed, 0, "loader cache has no part in glibc's layout 1.1"));
  Cursor start(*header, Order::little, "loader cache's header");
  start.skip(28);
  const Order order = start.u8() == big_endian ? Order::big : Order::little;
  Cursor c(*header, order, "loader cache's header");
  c.skip(cache_magic.size());
  const uint32_t count = c.u32();
  if (count > (bytes->size() - cache_header_size) / entry_size)
    return fail(
        header->error(Code::malformed, cache_magic.size(), "loader cache has more entries than it has room for"));
  auto body = bytes->slice(cache_header_size, count * entry_size, "loader cache's entries");
  if (!body) return pass(body);
  auto table = Table::of(*body, entry_size, entry_size, order, "loader cache's entries");
  if (!table) return pass(table);
  std::vector<LoaderCacheEntry> entries;
  entries.reserve(count);
  Budget budget(file);
  for (uint64_t i = 0; i < count; ++i) {
    const Record record = (*table)[i];
    auto name = bytes->c_string(record.u32(4), "loader cache's name");
    if (!name) return pass(name);
    auto path = bytes->c_string(record.u32(8), "loader cache's path");
    if (!path) return pass(path);
    if (!budget.spend(name->size() + path->size())) return fail(Budget::exceeded(*bytes, "loader cache"));
    entries.push_back({*name, *path, (record.u64(16) & hwcap_extension) != 0});
  }
  return entries;
}

}  // namespace fibula
