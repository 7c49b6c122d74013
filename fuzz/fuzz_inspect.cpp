// Whatever the file: inspect gives facts with an origin each, or an error that names the file.
#include <fibula/facts.hpp>

#include <unistd.h>
#include <cstdint>
#include <cstdlib>
#include <fstream>
#include <string>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  static const std::string path = "/tmp/fibula-fuzz-" + std::to_string(::getpid());
  std::ofstream(path, std::ios::binary).write(reinterpret_cast<const char*>(data), static_cast<std::streamsize>(size));
  const auto facts = fibula::inspect(path, {.members = true});
  if (!facts && facts.error().file != path) std::abort();
  if (facts) {
    for (const auto& row : fibula::rows(*facts)) {
      if (row.from.empty()) std::abort();
    }
  }
  (void)fibula::symbols_of(path);
  ::unlink(path.c_str());
  return 0;
}
