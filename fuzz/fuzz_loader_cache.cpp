// Whatever the bytes: names and paths lie inside the file.
#include "binary/loader_cache.hpp"

#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const fibula::Bytes bytes(std::as_bytes(std::span(data, size)));
  const auto entries = fibula::read_loader_cache(bytes);
  if (!entries) return 0;
  const auto inside = [&](std::string_view text) {
    return text.data() >= bytes.text().data() && text.data() + text.size() < bytes.text().data() + size;
  };
  for (const auto& entry : *entries) {
    if (!inside(entry.name) || !inside(entry.path)) std::abort();
  }
  return 0;
}
