// Whatever the bytes: names lie inside the file, and a symbol in a COMDAT group names one that is there.
#include "binary/elf.hpp"

#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const fibula::Bytes bytes(std::as_bytes(std::span(data, size)));
  if (!fibula::elf::recognises(bytes)) return 0;
  const auto image = fibula::elf::read(bytes, fibula::want_all);
  if (!image) return 0;
  const auto* begin = reinterpret_cast<const char*>(data);
  for (const auto* table : {&image->symbols, &image->dynamic_symbols}) {
    for (const auto& symbol : *table) {
      if (symbol.name.data() < begin || symbol.name.data() + symbol.name.size() >= begin + size) std::abort();
      if (symbol.group >= static_cast<int32_t>(image->groups.size())) std::abort();
    }
  }
  return 0;
}
