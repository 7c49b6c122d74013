// Whatever the bytes: slices lie inside the file, behind their table, and reading each of them ends.
#include "binary/universal.hpp"

#include "binary/open.hpp"
#include "check_image.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const auto bytes = fuzz::bytes_of(data, size);
  if (!fibula::is_universal(bytes)) return 0;
  const auto slices = fibula::read_universal(bytes);
  if (!slices) return 0;
  for (const auto& slice : *slices) {
    if (slice.bytes.origin() < 8 || slice.bytes.origin() + slice.bytes.size() > size) std::abort();
    const auto content = fibula::read_content(slice.bytes, fibula::want_all);
    if (content) (void)fibula::facts_of(*content, {}, {});
  }
  return 0;
}
