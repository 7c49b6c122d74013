// Whatever the text: a line has all its fields.
#include "fuzz_text.hpp"
#include "shelf/index.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  const auto lines = fibula::parse_index(text, "shelf.index");
  if (!lines) return 0;
  for (const auto& line : *lines) demand(line.name.find('\t') == std::string::npos);
  return 0;
}
