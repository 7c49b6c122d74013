// Whatever the bytes: the reader ends, names lie inside the file, and a walk over symbols gives what reading them
// gives.
#include "binary/elf.hpp"

#include "check_image.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  namespace reader = fibula::elf;
  const auto bytes = fuzz::bytes_of(data, size);
  fuzz::check_reader(bytes, reader::recognises, reader::read, reader::walk);
  (void)reader::read(bytes, fibula::want_dynamic);  // what loaders ask is answered from other tables
  return 0;
}
