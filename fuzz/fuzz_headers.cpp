// Whatever stands in a header: names are found, and none twice.
#include "headers/conditionals.hpp"
#include "headers/declarations.hpp"
#include "headers/defined_functions.hpp"

#include <set>
#include "fuzz_text.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  const auto left = fibula::functions_left_to_a_binary(text);
  demand(std::set<std::string>(left.begin(), left.end()).size() == left.size());
  (void)fibula::import_macros(text, {"_WIN32"});
  (void)fibula::declared_functions(text, [](const std::string&) { return true; });
  (void)fibula::defines_function(text, "tide");
  return 0;
}
