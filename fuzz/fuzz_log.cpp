// Whatever a log holds: it is explained in bounded time, and nothing is started for it. No files lie near it: where
// they would, each input costs a walk over them.
#include <fibula/explain.hpp>
#include <fibula/shelf.hpp>
#include "fuzz_text.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  static const fibula::Shelf shelf = fibula::Shelf::at("/nowhere");
  for (const auto& finding : fibula::explain(text, {.shelf = shelf, .folder = "/nowhere", .may_ask = false}))
    demand(!finding.cause.empty());
  return 0;
}
