// Whatever the bytes: members lie inside the file, and the index points at members.
#include "binary/ar.hpp"

#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const fibula::Bytes bytes(std::as_bytes(std::span(data, size)));
  if (!fibula::is_archive(bytes)) return 0;
  const auto archive = fibula::read_archive(bytes);
  if (!archive) return 0;
  for (const auto& member : archive->members) {
    if (!member.data.empty() && member.data.origin() + member.data.size() > size) std::abort();
  }
  for (const auto& entry : archive->index) {
    if (entry.member >= archive->members.size()) std::abort();
  }
  return 0;
}
