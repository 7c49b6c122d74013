// Whatever the text: a stub has targets, and every name of theirs is kept by its image.
#include "binary/stub.hpp"

#include "check_image.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const auto bytes = fuzz::bytes_of(data, size);
  if (!fibula::is_stub(bytes)) return 0;
  const auto targets = fibula::read_stub(bytes);
  if (targets && targets->empty()) std::abort();
  if (!targets) return 0;
  for (const auto& image : *targets) fuzz::check(image, bytes);
  return 0;
}
