// Whatever stands for versions: they are in one order, and a range that was read can be asked.
#include "base/text.hpp"
#include "base/version.hpp"
#include "fuzz_text.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  const size_t half = text.size() / 2;
  const std::string a(text.substr(0, half)), b(text.substr(half));
  demand(fibula::compare_versions(a, a) == 0);
  demand((fibula::compare_versions(a, b) > 0) == (fibula::compare_versions(b, a) < 0));
  if (const auto range = fibula::VersionRange::parse(a)) (void)range->contains(b);
  if (size < 2000) (void)fibula::text::glob_matches(a, b);
  return 0;
}
