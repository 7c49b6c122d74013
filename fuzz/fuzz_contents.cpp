// Whatever the text: a list of files leads out of no folder, and is written as it was read.
#include "base/inside_path.hpp"
#include "fuzz_text.hpp"
#include "os/digest_list.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  const auto list = fibula::parse_digest_list(text, "contents.sha256", "");
  if (!list) return 0;
  for (const auto& file : *list) demand(fibula::InsidePath::of(file.file).has_value());
  demand(fibula::parse_digest_list(fibula::to_text(*list), "contents.sha256", "").has_value());
  return 0;
}
