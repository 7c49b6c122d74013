// Whatever the text: an input has a name, and no signs of the language in it.
#include "binary/script.hpp"

#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const fibula::Bytes bytes(std::as_bytes(std::span(data, size)));
  if (!fibula::is_script(bytes)) return 0;
  const auto script = fibula::read_script(bytes);
  if (!script) return 0;
  for (const auto& input : script->inputs) {
    if (input.name == "(" || input.name == ")" || input.name == ",") std::abort();
  }
  return 0;
}
