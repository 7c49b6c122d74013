// Whatever the file: inspect gives facts with an origin each, or an error that names the file.
#include <fibula/facts.hpp>
#include <fibula/symbols.hpp>

#include <sys/mman.h>
#include <unistd.h>
#include <cstdint>
#include <cstdlib>
#include <string>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const int memory = ::memfd_create("fibula", MFD_CLOEXEC);
  if (memory < 0 || ::write(memory, data, size) != static_cast<ssize_t>(size)) std::abort();
  const std::string path = "/proc/self/fd/" + std::to_string(memory);
  const auto facts = fibula::inspect(path, {.members = true});
  if (!facts && facts.error().file != path) std::abort();
  if (facts) {
    for (const auto& row : fibula::rows(*facts)) {
      if (row.from.empty()) std::abort();
    }
  }
  (void)fibula::symbols_of(path);
  ::close(memory);
  return 0;
}
