// Whatever an archive calls a file, and wherever a link in it leads: what is made of it stays inside.
#include "base/inside_path.hpp"
#include "fuzz_text.hpp"
#include "take/entry_names.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  const size_t half = text.size() / 2;
  const auto name = fibula::safe_name(text);
  if (name && !name->empty())
    demand(name->find("..") == std::string::npos || name->find(':') != std::string::npos ||
           fibula::InsidePath::why_not(*name).find("leads") == std::string::npos);
  const auto target = fibula::safe_target(text.substr(0, half), text.substr(half), size % 2 == 0);
  if (target && !target->empty())
    demand(fibula::InsidePath::why_not(*target).find("leads") == std::string::npos ||
           target->find(':') != std::string::npos);
  return 0;
}
