// Whatever the bytes: the reader ends, names lie inside the file, and a walk over symbols gives what reading them
// gives.
#include "binary/macho.hpp"

#include "check_image.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  namespace reader = fibula::macho;
  fuzz::check_reader(fuzz::bytes_of(data, size), reader::recognises, reader::read, reader::walk);
  return 0;
}
