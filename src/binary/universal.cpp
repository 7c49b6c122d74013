#include "binary/universal.hpp"

#include "binary/macho.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

constexpr uint32_t narrow_magic = 0xcafebabe, wide_magic = 0xcafebabf;

/// Compiled Java classes begin with the same word; the version in the second is at least 45 there.
constexpr uint32_t least_java_version = 45;

}  // namespace

bool is_universal(Bytes bytes) {
  Cursor c(bytes, Order::big, "universal header");
  const uint32_t magic = c.u32(), count = c.u32();
  return c && (magic == narrow_magic || magic == wide_magic) && count < least_java_version;
}

Result<std::vector<Slice>> read_universal(Bytes bytes) {
  Cursor head(bytes, Order::big, "universal header");
  const bool wide = head.u32() == wide_magic;
  const uint32_t count = head.u32();
  const uint64_t size = wide ? 32 : 20;
  auto area = bytes.slice(8, count * size, "table of slices");
  if (!area) return pass(area);
  Cursor c(*area, Order::big, "table of slices");
  std::vector<Slice> slices;
  for (uint32_t i = 0; i < count; ++i) {
    const uint32_t type = c.u32(), subtype = c.u32();
    const uint64_t offset = c.word(wide), length = c.word(wide);
    c.skip(wide ? 8 : 4);
    auto slice = bytes.slice(offset, length, fmt::format("slice {}", i + 1));
    if (!slice) return pass(slice);
    if (offset < 8 + count * size) {
      return fail(
          bytes.error(Code::malformed, offset, fmt::format("slice {} begins inside the table of slices", i + 1)));
    }
    if (is_universal(*slice)) {
      return fail(bytes.error(Code::malformed, offset, fmt::format("slice {} is a universal file itself", i + 1)));
    }
    slices.push_back({macho::target_of(type, subtype), *slice});
  }
  if (!c) return fail(c.error());
  return slices;
}

}  // namespace fibula
